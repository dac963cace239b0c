import { blobSource } from "../../../core/bytes/blob-source.ts";
import { type ByteSource, UnusableError } from "../../../core/bytes/source.ts";
import { tarSource } from "../../../core/filesystems/tar/tar-source.ts";

/** A file of a folder, with its path below it. */
interface FolderFile {
  readonly path: string;
  readonly file: File;
}

/** Files and folders before we stop believing. */
const MAX_FILES = 500_000;
const MAX_DEPTH = 64;

/** All files of a folder, in its subfolders too. One that cannot be opened is left out: the rest goes on. */
export async function filesIn(root: FileSystemDirectoryHandle): Promise<FolderFile[]> {
  const files: FolderFile[] = [];
  const walk = async (folder: FileSystemDirectoryHandle, path: string, depth: number): Promise<void> => {
    for await (const entry of folder.values()) {
      if (files.length >= MAX_FILES || depth > MAX_DEPTH) return;
      if (entry.kind === "directory") await walk(entry as FileSystemDirectoryHandle, `${path}${entry.name}/`, depth + 1);
      else {
        const file = await (entry as FileSystemFileHandle).getFile().catch(() => null);
        if (file) files.push({ path: path + entry.name, file });
      }
    }
  };
  await walk(root, "", 0);
  return files;
}

/** Files that a folder field gave: their paths begin with the folder's own name. */
export const pathsOf = (files: readonly File[]): FolderFile[] =>
  files.map((file) => ({ path: file.webkitRelativePath.slice(file.webkitRelativePath.indexOf("/") + 1) || file.name, file }));

/** A folder as the archive that its files would make: so it is a source like any other. @throws UnusableError where it has none */
export function folderSource(name: string, files: readonly FolderFile[]): ByteSource {
  if (files.length === 0) throw new UnusableError(`${name} is a folder without files: there is nothing in it to look for.`);
  const members = files.map(({ path, file }) => ({
    path,
    size: file.size,
    modified: file.lastModified,
    content: blobSource(file, file.name),
  }));
  return tarSource(
    name,
    members.sort((a, b) => (a.path < b.path ? -1 : 1)),
  );
}
