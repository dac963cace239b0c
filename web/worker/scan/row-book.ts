import type { FoundRows } from "../../../core/scan/row-records.ts";
import { RowColumns } from "../../../core/sqlite/rows/row-columns.ts";
import { database } from "../../kept/database.ts";
import { CHUNK_ROWS, KeptChunk, type KeptRests, KeptStore } from "../../kept/kept-rows.ts";

/** What of the rows of a scan is to be kept with its next step. */
export interface RowStep {
  readonly stores: readonly KeptStore[];
  readonly chunks: readonly KeptChunk[];
  readonly rests: readonly KeptRests[];
}

interface FullChunk {
  readonly chunk: KeptChunk;
  readonly rests: KeptRests;
}

/** One database whose rows are told of: those that fill no chunk yet, and those that are still to be kept. */
class OpenStore {
  readonly store: { -readonly [K in keyof KeptStore]: KeptStore[K] };
  readonly columns: RowColumns;
  /** Chunks that are full, with their rests. */
  readonly full: FullChunk[] = [];

  constructor(store: KeptStore) {
    this.store = { ...store };
    this.columns = new RowColumns(store.tables);
  }

  /** Number of the chunk that is being filled. */
  get #filling(): number {
    return Math.floor((this.store.rows - this.columns.length) / CHUNK_ROWS);
  }

  put({ rows }: FoundRows): void {
    for (const row of rows) {
      this.columns.put(row);
      this.store.rows++;
      if (this.columns.length < CHUNK_ROWS) continue;
      this.full.push(this.#chunk());
      this.columns.clear();
    }
  }

  #chunk(): FullChunk {
    const { medium, find } = this.store;
    const key = { medium, find, number: this.#filling };
    return { chunk: { ...key, ...this.columns.chunk(0, CHUNK_ROWS) }, rests: { ...key, rests: this.columns.rests(0, CHUNK_ROWS) } };
  }

  step(): { store: KeptStore; chunks: FullChunk[] } {
    const { tables } = this.columns;
    return {
      store: { ...this.store, tables: structuredClone(tables) as KeptStore["tables"] },
      chunks: this.columns.length > 0 ? [...this.full, this.#chunk()] : this.full,
    };
  }
}

/**
 * The rows of one scan of a medium as they are kept: each database once, in chunks, with the step that tells of them. A database that is told of again by
 * a later scan takes the place of what was kept of it.
 */
export class RowBook {
  readonly #medium: number;
  readonly #scan: number;
  readonly #open = new Map<string, OpenStore>();

  constructor(medium: number, scan: number) {
    this.#medium = medium;
    this.#scan = scan;
  }

  async take(found: FoundRows): Promise<void> {
    if (!found.find || found.rows.length === 0) return;
    (await this.#store(found.find.id)).put(found);
  }

  /** All rows of the databases that are open were told: nothing more comes of them. */
  close(): void {
    for (const { store } of this.#open.values()) store.complete = true;
  }

  async #store(find: string): Promise<OpenStore> {
    const known = this.#open.get(find);
    if (known) return known;
    const kept = KeptStore.safeParse(await database.stores.get([this.#medium, find])).data;
    const goesOn = kept && kept.scan === this.#scan && !kept.complete;
    const open = new OpenStore(goesOn ? kept : { medium: this.#medium, find, scan: this.#scan, tables: [], rows: 0, complete: false });
    // Rows that fill no chunk yet are filled up.
    const begun = goesOn ? Math.floor(kept.rows / CHUNK_ROWS) : 0;
    const key: [number, string, number] = [this.#medium, find, begun];
    const last = goesOn && kept.rows % CHUNK_ROWS > 0 ? await database.rows.get(key) : undefined;
    if (last) open.columns.append(KeptChunk.parse(last), (await database.rests.get(key))?.rests ?? null);
    this.#open.set(find, open);
    return open;
  }

  /** What changed since it was kept. */
  step(): RowStep {
    const steps = Array.from(this.#open.values(), (open) => open.step());
    const chunks = steps.flatMap((one) => one.chunks);
    return {
      stores: steps.map(({ store }) => store),
      chunks: chunks.map(({ chunk }) => chunk),
      // A chunk without any has its old ones taken away.
      rests: chunks.map(({ rests }) => rests),
    };
  }

  /** This is kept now. */
  settle({ stores, chunks }: RowStep): void {
    const whole = new Set(chunks.filter(({ table }) => table.length === CHUNK_ROWS));
    for (const { find, complete } of stores) {
      const open = this.#open.get(find);
      if (!open) continue;
      open.full.splice(0, open.full.length, ...open.full.filter(({ chunk }) => !whole.has(chunk)));
      if (complete) this.#open.delete(find);
    }
  }
}
