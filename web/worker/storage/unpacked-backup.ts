import { z } from "zod";
import { unpackBackup } from "../../../core/backup/unpack.ts";
import { blobSource } from "../../../core/bytes/blob-source.ts";
import { type ByteSource, UnusableError, withTroubles } from "../../../core/bytes/source.ts";
import { unpackedFiles, unpackedFolder } from "../../kept/unpacked-folder.ts";
import { openOwnFile } from "./own-file.ts";

/** What was met while a backup was unpacked stands in its mark; marks of before are empty. */
const Told = z.array(z.object({ what: z.string(), at: z.number(), length: z.number() }));
type Told = z.infer<typeof Told>;

/** The archive that a backup was unpacked to before, as a source of that name; null where it does not lie there whole. */
export async function unpackedArchive(archive: string, name: string): Promise<ByteSource | null> {
  const files = unpackedFiles(archive);
  try {
    const folder = await unpackedFolder({ create: false });
    const mark = await (await folder.getFileHandle(files.mark)).getFile();
    const troubles = Told.catch([]).parse(JSON.parse((await mark.text()) || "[]"));
    return withTroubles(blobSource(await (await folder.getFileHandle(files.archive)).getFile(), name), troubles);
  } catch {
    return null;
  }
}

/**
 * The archive in a backup, unpacked into the browser's own storage: once, so that it opens again at once and without asking.
 * `archive` tells backups apart. @throws PassphraseNeeded, UnusableError
 */
export async function unpackedBackup(packed: ByteSource, archive: string, passphrase: string | null): Promise<ByteSource> {
  const before = await unpackedArchive(archive, packed.name);
  if (before) return before;
  const files = unpackedFiles(archive);
  const folder = await unpackedFolder({ create: true });
  const troubles: Told = [];
  const file = await openOwnFile(folder, files.archive);
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
  const note = await (await folder.getFileHandle(files.mark, { create: true })).createWritable();
  await note.write(JSON.stringify(troubles));
  await note.close();
  return withTroubles(blobSource(await (await folder.getFileHandle(files.archive)).getFile(), packed.name), troubles);
}
