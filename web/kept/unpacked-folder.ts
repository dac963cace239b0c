/** Where archives lie that backups were unpacked to, in the browser's own storage. */
export const UNPACKED_FOLDER = "unpacked-backups";
