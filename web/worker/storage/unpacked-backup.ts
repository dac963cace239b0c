import { z } from "zod";
import type { PackedImage } from "../../../core/archives/packed-image.ts";
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
  const troubles: Told = [];
  const pieces = unpackBackup(packed, passphrase, (what) => troubles.push({ what, at: 0, length: 0 }));
  return unpackedAs(archive, packed.name, pieces, troubles);
}

const FULL = "The browser's storage is full: this cannot be unpacked. Make room on this computer, then open it again.";

/** What was packed as a whole, unpacked likewise. @throws UnusableError where it is broken, or there is no room for it */
export async function unpackedImage(image: PackedImage, archive: string, progress: (part: number) => void): Promise<ByteSource> {
  const before = await unpackedArchive(archive, image.name);
  if (before) return before;
  const { quota, usage } = await navigator.storage.estimate();
  if (image.size !== null && quota !== undefined && quota - (usage ?? 0) < image.size) throw new UnusableError(FULL);
  let told = 0;
  const pieces = image.pieces((done, total) => {
    if (done - told < total / 100) return;
    told = done;
    progress(done / total);
  });
  return unpackedAs(archive, image.name, pieces, []);
}

/** Writes pieces as they come, and then the mark that says that all of them are there. */
async function unpackedAs(archive: string, name: string, pieces: AsyncIterable<Uint8Array>, troubles: Told): Promise<ByteSource> {
  const files = unpackedFiles(archive);
  const folder = await unpackedFolder({ create: true });
  const file = await openOwnFile(folder, files.archive);
  try {
    file.truncate(0);
    let at = 0;
    for await (const piece of pieces) {
      if (file.write(piece, { at }) !== piece.length) throw new UnusableError(FULL);
      at += piece.length;
    }
    file.flush();
  } catch (cause) {
    // Half of it is of no use, and takes room.
    file.truncate(0);
    throw cause instanceof DOMException && cause.name === "QuotaExceededError" ? new UnusableError(FULL) : cause;
  } finally {
    file.close();
  }
  const note = await (await folder.getFileHandle(files.mark, { create: true })).createWritable();
  await note.write(JSON.stringify(troubles));
  await note.close();
  return withTroubles(blobSource(await (await folder.getFileHandle(files.archive)).getFile(), name), troubles);
}
