import type { KeptPlaces } from "../../../core/bytes/place-ledger.ts";
import { database, type Pack } from "../../kept/database.ts";
import type { Line } from "../../kept/news.ts";
import type { Ownership } from "../../kept/ownership.ts";
import type { ScanRecord } from "../../kept/scan-record.ts";

/** A step of a scan: what is kept as one. */
export interface Kept {
  readonly packs: readonly Pack[];
  readonly scan: ScanRecord;
  /** Null: they are as they were kept before. */
  readonly places: KeptPlaces | null;
}

/** Keeps steps of a medium's scan: each one transaction, or nothing of it. */
export class ScanKeeper {
  readonly #job: number;
  readonly #ownership: Ownership;
  readonly #line: Line;

  constructor(job: number, ownership: Ownership, line: Line) {
    this.#job = job;
    this.#ownership = ownership;
    this.#line = line;
  }

  /** @throws NotMine where another tab took the medium over; QuotaExceededError and others where nothing was kept */
  async keep({ packs, scan, places }: Kept): Promise<void> {
    const { medium } = this.#ownership;
    await database.transaction("rw", [database.jobs, database.media, database.packs, database.places], async () => {
      await this.#ownership.check();
      await database.packs.bulkPut([...packs]);
      // What an earlier scan found goes when this one has told everything anew, and with the same stroke.
      if (scan.status === "done") await database.packs.where("[medium+number]").between([medium, 0], [medium, scan.firstPack]).delete();
      if (places) await database.places.put({ medium, ...places });
      await database.media.update(medium, { scan: structuredClone(scan) });
      await database.jobs.update(this.#job, { touchedAt: Date.now() });
    });
    const firstPack = scan.status === "done" ? scan.firstPack : 0;
    if (packs.length > 0 || scan.status === "done")
      this.#line.say({ type: "kept", job: this.#job, medium, packs: packs.map(({ number }) => number), firstPack });
  }
}
