import { database } from "./database.ts";
import { eraseBegunWith, eraseFile } from "./erase-file.ts";
import { tellAll } from "./news.ts";
import { Ownership } from "./ownership.ts";
import { copyFileName } from "./part.ts";
import { unpackedPaths } from "./unpacked-folder.ts";

/** Milliseconds that work on a medium may still take to end before its right is taken from it. */
const PATIENCE = 2000;

/** Ends all work on media, in whatever tab, and takes the right to them: nothing of what is still on its way can be kept any more. */
async function endWork(media: readonly number[]): Promise<Ownership[]> {
  tellAll({ type: "end", media });
  const taken: Ownership[] = [];
  for (const medium of media) {
    await Ownership.free(medium, AbortSignal.timeout(PATIENCE)).catch(() => undefined);
    const ownership = await Ownership.take(medium, true).catch(() => null);
    if (ownership) taken.push(ownership);
  }
  return taken;
}

/** Takes media out of their ticket, with all that was found on them and all that was kept for them. The storage itself is not touched. */
export async function removeMedia(ids: readonly number[]): Promise<void> {
  const taken = await endWork(ids);
  const rows = (await database.media.bulkGet([...ids])).filter((row) => row !== undefined);
  const parts = (await database.parts.bulkGet([...ids])).filter((row) => row !== undefined);
  try {
    const { media, packs, places, hashes, parts: ofPhones, stores, rows: ofStores, rests, people } = database;
    await database.transaction("rw", [media, packs, places, hashes, ofPhones, stores, ofStores, rests, people], async () => {
      for (const table of [packs, places, hashes, ofPhones, stores, ofStores, rests, people])
        await table.where("medium").anyOf(ids).delete();
      await database.media.bulkDelete([...ids]);
    });
  } finally {
    // Where the database did not do it, the media are there as before, and can be worked on.
    for (const ownership of taken) ownership.letGo();
  }
  const left = await database.media.toArray();
  const names = new Set(left.map(({ source }) => source?.unpacked));
  for (const { id, source } of rows) {
    await eraseFile([copyFileName(id)]);
    // A backup that another ticket works on too stays unpacked.
    const name = source?.unpacked;
    if (name && !names.has(name)) for (const path of unpackedPaths(name)) await eraseFile(path);
  }
  for (const { place } of parts) if (place?.kind === "browser") await eraseFile([place.file]);
}

/** Forgets a ticket: its work ends, then all it left is erased. */
export async function removeJob(id: number): Promise<void> {
  const media = (await database.media.where("job").equals(id).primaryKeys()) as number[];
  await removeMedia(media);
  const number = (await database.jobs.get(id))?.number;
  await database.jobs.delete(id);
  tellAll({ type: "gone", job: id });
  // App backups that were taken from its phone.
  if (number !== undefined) await eraseBegunWith(`app-backup-${number}-`);
  globalThis.localStorage?.removeItem(`jubar pending ${id}`);
}
