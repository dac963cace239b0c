import { open, readdir, stat } from "node:fs/promises";
import { basename, join, relative } from "node:path";
import { type ByteSource, UnreadableError, UnusableError } from "../core/bytes/source.ts";
import { type TarMember, tarSource } from "../core/filesystems/tar/tar-source.ts";

/** Files of a folder before we stop believing. */
const MAX_FILES = 2_000_000;

/** A file that is opened for each reading: a folder of 100,000 files has more of them than a process may hold open. */
const lazyFile = (path: string, size: number): ByteSource => ({
  name: basename(path),
  size,
  async read(offset, length) {
    const handle = await open(path, "r").catch((cause: NodeJS.ErrnoException) => {
      throw new UnreadableError(offset, length, `${path} cannot be opened (${cause.code ?? cause.message})`, true);
    });
    try {
      const bytes = new Uint8Array(length);
      const { bytesRead } = await handle.read(bytes, 0, length, offset);
      if (bytesRead < length) throw new UnreadableError(offset + bytesRead, length - bytesRead, `${path} became shorter`, true);
      return bytes;
    } finally {
      await handle.close();
    }
  },
});

/** All files of a folder, as the archive that they would make: so a folder is a source like any other. Links are not followed. */
export async function folderSource(root: string): Promise<ByteSource> {
  const members: TarMember[] = [];
  const entries = await readdir(root, { recursive: true, withFileTypes: true }).catch((cause: NodeJS.ErrnoException) => {
    throw new UnusableError(`${root} cannot be read (${cause.code ?? cause.message}).`);
  });
  for (const entry of entries) {
    if (!entry.isFile() || members.length >= MAX_FILES) continue;
    const path = join(entry.parentPath, entry.name);
    const info = await stat(path).catch(() => null);
    if (info) members.push({ path: relative(root, path), size: info.size, modified: info.mtimeMs, content: lazyFile(path, info.size) });
  }
  if (members.length === 0) throw new UnusableError(`${root} is a folder without files: there is nothing in it to look for.`);
  members.sort((a, b) => (a.path < b.path ? -1 : 1));
  return tarSource(basename(root), members);
}
