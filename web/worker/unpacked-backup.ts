import { unpackBackup } from "../../core/backup/unpack.ts";
import { blobSource } from "../../core/bytes/blob-source.ts";
import type { ByteSource } from "../../core/bytes/source.ts";

const FOLDER = "unpacked-backups";

/** The browser's own files can be written at once in workers; the types of pages do not tell of it. */
interface OwnFile {
  createSyncAccessHandle(): Promise<{
    truncate(size: number): void;
    write(bytes: Uint8Array, options: { at: number }): number;
    flush(): void;
    close(): void;
  }>;
}

/**
 * The archive in a backup, unpacked into the browser's own storage: once, so that it opens again at once and without asking.
 * `sample` tells backups apart. @throws PassphraseNeeded, UnusableError
 */
export async function unpackedBackup(packed: ByteSource, sample: string, passphrase: string | null): Promise<ByteSource> {
  const folder = await (await navigator.storage.getDirectory()).getDirectoryHandle(FOLDER, { create: true });
  const name = `${sample}.tar`;
  // Written last: an archive without it was broken off.
  const mark = `${sample}.whole`;
  const read = async () => blobSource(await (await folder.getFileHandle(name)).getFile(), packed.name);
  if (await folder.getFileHandle(mark).catch(() => null)) return read();
  const file = await ((await folder.getFileHandle(name, { create: true })) as FileSystemFileHandle & OwnFile).createSyncAccessHandle();
  try {
    file.truncate(0);
    let at = 0;
    for await (const piece of unpackBackup(packed, passphrase, () => {})) {
      file.write(piece, { at });
      at += piece.length;
    }
    file.flush();
  } finally {
    file.close();
  }
  await folder.getFileHandle(mark, { create: true });
  return read();
}
