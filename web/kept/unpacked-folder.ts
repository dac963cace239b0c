/** Where archives lie that backups were unpacked to, in the browser's own storage. */
const UNPACKED_FOLDER = "unpacked-backups";

/** That folder. @throws DOMException NotFoundError where nothing was ever unpacked, and it is not to be made */
export const unpackedFolder = async ({ create }: { create: boolean }): Promise<FileSystemDirectoryHandle> =>
  (await navigator.storage.getDirectory()).getDirectoryHandle(UNPACKED_FOLDER, { create });

/** Files of an unpacked backup: the archive, and the mark that is written last. An archive without it was broken off. */
export const unpackedFiles = (name: string) => ({ archive: `${name}.tar`, mark: `${name}.whole` });

/** Paths of both, for whoever erases them. */
export const unpackedPaths = (name: string): string[][] => Object.values(unpackedFiles(name)).map((file) => [UNPACKED_FOLDER, file]);

/** Does the archive of a backup lie there, whole? */
export async function isUnpacked(name: string): Promise<boolean> {
  try {
    await (await unpackedFolder({ create: false })).getFileHandle(unpackedFiles(name).mark);
    return true;
  } catch {
    return false;
  }
}
