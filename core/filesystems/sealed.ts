/** Why the content of a file cannot be given although its place is known, and what that means for a whole volume. */
export const ENCRYPTED_FILE = "the phone encrypted it file by file: without the phone's own keys its bytes say nothing";
export const COMPRESSED_FILE = "the file system keeps it compressed, which is not unpacked here";
export const ENCRYPTED_FOLDERS =
  "Folders of this volume may be encrypted file by file. Names and contents in them are readable only while the phone itself has them unlocked.";
