import Dexie from "dexie";
import type { KeptPlaces } from "../../../core/bytes/place-ledger.ts";
import { database, type Pack } from "../../kept/database.ts";
import { CHUNK_ROWS } from "../../kept/kept-rows.ts";
import type { KeptScan } from "../../kept/kept-scan.ts";
import type { Line } from "../../kept/news.ts";
import type { Ownership } from "../../kept/ownership.ts";
import type { PeopleStep } from "./people-book.ts";
import type { RowStep } from "./row-book.ts";

/** A step of a scan: what is kept as one. */
export interface Kept {
  readonly packs: readonly Pack[];
  readonly rows: RowStep;
  readonly people: PeopleStep;
  readonly scan: KeptScan;
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
  async keep({ packs, rows, people, scan, places }: Kept): Promise<void> {
    const { medium } = this.#ownership;
    const { jobs, media, packs: ofFinds, places: bad, stores, rows: ofStores, rests, people: ofPeople } = database;
    let hasReplaced = false;
    await database.transaction("rw", [jobs, media, ofFinds, bad, stores, ofStores, rests, ofPeople], async () => {
      await this.#ownership.check();
      await database.packs.bulkPut([...packs]);
      // What an earlier scan found goes when this one has told everything anew, and with the same stroke.
      if (scan.status === "done") await database.packs.where("[medium+number]").between([medium, 0], [medium, scan.firstPack]).delete();
      await this.#keepRows(rows, scan);
      hasReplaced = await this.#keepPeople(people, scan);
      if (places) await database.places.put({ medium, ...places });
      await database.media.update(medium, { scan: structuredClone(scan) });
      await database.jobs.update(this.#job, { touchedAt: Date.now() });
    });
    const firstPack = scan.status === "done" ? scan.firstPack : 0;
    const finds = new Set(people.packs.map(({ find }) => find));
    // Who shows a million entries need not read them all again where nothing but new ones came.
    const told = hasReplaced ? null : [...finds];
    if (packs.length > 0 || finds.size > 0 || scan.status === "done")
      this.#line.say({ type: "kept", job: this.#job, medium, packs: packs.map(({ number }) => number), firstPack, people: told });
  }

  /** Rows go with their database's own row: what it has more of is an earlier scan's, and so are databases that the scan that ends did not tell of. */
  async #keepRows({ stores, chunks, rests }: RowStep, { status, firstPack }: KeptScan): Promise<void> {
    const { medium } = this.#ownership;
    await database.rows.bulkPut([...chunks]);
    await database.rests.bulkPut([...rests]);
    for (const store of stores) {
      await database.stores.put(store);
      await this.#dropRows(store.find, Math.ceil(store.rows / CHUNK_ROWS));
    }
    if (status !== "done") return;
    for (const { find, scan } of await database.stores.where({ medium }).toArray())
      if (scan !== firstPack) {
        await database.stores.delete([medium, find]);
        await this.#dropRows(find, 0);
      }
  }

  /**
   * What an earlier scan kept of people goes where this one tells of the same database, and at its end all that it did not tell of.
   * @returns did anything go?
   */
  async #keepPeople({ packs, fresh }: PeopleStep, { status, firstPack }: KeptScan): Promise<boolean> {
    const { medium } = this.#ownership;
    const { people } = database;
    let gone = 0;
    for (const find of fresh)
      gone += await people
        .where("[medium+find+number]")
        .between([medium, find, 0], [medium, find, Dexie.maxKey])
        .filter(({ scan }) => scan !== firstPack)
        .delete();
    await people.bulkPut([...packs]);
    if (status === "done")
      gone += await people
        .where({ medium })
        .filter(({ scan }) => scan !== firstPack)
        .delete();
    return gone > 0;
  }

  /** Drops the rows of a store from a chunk on. */
  async #dropRows(find: string, from: number): Promise<void> {
    const { medium } = this.#ownership;
    for (const table of [database.rows, database.rests])
      await table.where("[medium+find+number]").between([medium, find, from], [medium, find, Dexie.maxKey]).delete();
  }
}
