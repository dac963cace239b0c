import { database } from "../../kept/database.ts";
import { ENTRIES_A_PACK, type KeptPeople, keptEntryOf } from "../../kept/kept-people.ts";
import { keepMapping } from "../../kept/known-mappings.ts";
import { tellAll } from "../../kept/news.ts";
import { lacksRoom, NO_ROOM } from "../../kept/no-room.ts";
import { NotMine, Ownership } from "../../kept/ownership.ts";
import type { Found } from "../finds/protocol.ts";
import type { MeaningDesk } from "./meaning-desk.ts";
import type { Kept, Verdict } from "./meaning-protocol.ts";

/**
 * Keeps what a database means for this app from now on, and shows this database so: both, or nothing of it. While its medium is worked on, or before
 * a scan of it is done, only the meaning is kept: the scan reads with it.
 */
export async function keepMeaning(job: number, found: Found, desk: MeaningDesk, verdict: Verdict): Promise<Kept> {
  const { medium } = found;
  let ownership: Ownership | null = null;
  try {
    const { mapping, entries } = desk.judged(verdict);
    const packs = packsOf(found, entries);
    ownership = await Ownership.take(medium, false);
    const kept = { fingerprint: desk.fingerprint, keptAt: Date.now(), mapping };
    const isRead = await database.transaction("rw", [database.mappings, database.media, database.people], async () => {
      await keepMapping(kept);
      const row = await database.media.get(medium);
      if (!ownership || !row || row.scan.status !== "done") return false;
      await ownership.check();
      await database.people
        .where("[medium+find+number]")
        .between([medium, found.id, 0], [medium, found.id, Number.POSITIVE_INFINITY])
        .delete();
      await database.people.bulkPut(packs.map((pack) => ({ ...pack, scan: row.scan.firstPack })));
      const proposals = (row.scan.proposals ?? []).filter(({ find }) => find !== found.id);
      await database.media.update(medium, { scan: { ...row.scan, proposals } });
      return true;
    });
    if (!isRead) return { ok: true, read: null };
    tellAll({ type: "kept", job, medium, packs: [], firstPack: 0, people: null });
    return { ok: true, read: packs.reduce((sum, { entries: some }) => sum + some.filter(({ kind }) => kind === "chat").length, 0) };
  } catch (cause) {
    if (lacksRoom(cause)) return { ok: false, because: NO_ROOM };
    return { ok: false, because: cause instanceof NotMine || cause instanceof Error ? cause.message : String(cause) };
  } finally {
    ownership?.letGo();
  }
}

function packsOf(found: Found, entries: ReturnType<MeaningDesk["judged"]>["entries"]): Omit<KeptPeople, "scan">[] {
  const kept = entries.flatMap((entry) => keptEntryOf(entry) ?? []);
  return Array.from({ length: Math.ceil(kept.length / ENTRIES_A_PACK) }, (_, number) => ({
    medium: found.medium,
    find: found.id,
    number,
    entries: kept.slice(number * ENTRIES_A_PACK, (number + 1) * ENTRIES_A_PACK),
  }));
}
