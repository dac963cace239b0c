import { z } from "zod";
import { unpackBackup } from "../../core/backup/unpack.ts";
import { blobSource } from "../../core/bytes/blob-source.ts";
import { type ByteSource, UnusableError, withTroubles } from "../../core/bytes/source.ts";
import { UNPACKED_FOLDER } from "../kept/unpacked-folder.ts";
import { openOwnFile } from "./own-file.ts";

/**
 * The archive in a backup, unpacked into the browser's own storage: once, so that it opens again at once and without asking.
 * `name` tells backups apart. @throws PassphraseNeeded, UnusableError
 */
export async function unpackedBackup(packed: ByteSource, name: string, passphrase: string | null): Promise<ByteSource> {
  const folder = await (await navigator.storage.getDirectory()).getDirectoryHandle(UNPACKED_FOLDER, { create: true });
  const archive = `${name}.tar`;
  // Written last: an archive without it was broken off.
  const mark = `${name}.whole`;
  const told = z.array(z.object({ what: z.string(), at: z.number(), length: z.number() }));
  const read = async (troubles: z.infer<typeof told>) =>
    withTroubles(blobSource(await (await folder.getFileHandle(archive)).getFile(), packed.name), troubles);
  const marked = await folder.getFileHandle(mark).catch(() => null);
  // What was met while it was unpacked stands in the mark; marks of before are empty.
  if (marked) return read(told.catch([]).parse(JSON.parse((await (await marked.getFile()).text()) || "[]")));
  const troubles: z.infer<typeof told> = [];
  const file = await openOwnFile(folder, archive);
  try {
    file.truncate(0);
    let at = 0;
    for await (const piece of unpackBackup(packed, passphrase, (what) => troubles.push({ what, at: 0, length: 0 }))) {
      if (file.write(piece, { at }) !== piece.length)
        throw new UnusableError(
          "The browser's storage is full: the backup cannot be unpacked. Make room on this computer, then open it again.",
        );
      at += piece.length;
    }
    file.flush();
  } finally {
    file.close();
  }
  const note = await (await folder.getFileHandle(mark, { create: true })).createWritable();
  await note.write(JSON.stringify(troubles));
  await note.close();
  return read(troubles);
}
