import { numberOf, type StoreRow, type StoreTable } from "../gathered.ts";
import type { Context } from "./compiled.ts";
import { rising } from "./statistics.ts";

interface Known {
  readonly table: StoreTable;
  readonly part: string | null;
  /** Row ids of what is there, in order, with their times. */
  readonly ids: readonly number[];
  readonly times: readonly number[];
  readonly taken: ReadonlySet<number>;
  readonly inOrder: boolean;
  readonly senders: ReadonlySet<string>;
}

/** How what a message says is read. */
export interface Reading {
  time(context: Context): number | undefined;
  sender(context: Context): string | null;
  namesIn(part: string): ReadonlySet<string>;
}

/** Times and row ids that rise together so often are in order. */
const IN_ORDER = 0.98;
/** Images of pages in a log lie no nearer to each other than this ("Database File Format" §1.3.2: the smallest page). */
const PAGE_AT_LEAST = 512;

/**
 * Of several tables of one shape, one for each conversation, the one that an erased row is of: its row id is free there, its time lies between those of
 * the rows before and behind it, and who wrote it is in that conversation.
 */
export class WhichTable {
  readonly #tables: readonly Known[];
  readonly #reading: Reading;

  constructor(tables: readonly { readonly table: StoreTable; readonly part: string | null }[], reading: Reading) {
    this.#reading = reading;
    this.#tables = tables.map(({ table, part }) => this.#known(table, part));
  }

  #known(table: StoreTable, part: string | null): Known {
    const there = table.rows
      .filter(({ isThere }) => isThere)
      .map((row) => ({
        row,
        id: numberOf(row.row.rowid ?? undefined) ?? Number.NaN,
        time: this.#reading.time({ row, part, joined: new Map() }) ?? Number.NaN,
      }))
      .filter(({ id, time }) => !Number.isNaN(id) && !Number.isNaN(time))
      .sort((a, b) => a.id - b.id);
    const times = there.map(({ time }) => time);
    const senders = new Set(part === null ? [] : this.#reading.namesIn(part));
    for (const { row } of there) {
      const sender = this.#reading.sender({ row, part, joined: new Map() });
      if (sender !== null) senders.add(sender);
    }
    const ids = there.map(({ id }) => id);
    return { table, part, ids, times, taken: new Set(ids), inOrder: there.length < 2 || rising(times) >= IN_ORDER, senders };
  }

  /**
   * The parts of the tables that rows can be of, where it is one alone. A page held rows of one table: what all rows found on it can be of is what each
   * of them is of.
   */
  partsOf(rows: readonly StoreRow[]): ReadonlyMap<StoreRow, string | null> {
    const pages = new Map<string, StoreRow[]>();
    for (const row of rows) {
      const [{ file, page, what, at }] = row.row.evidence;
      const key = `${file} ${page} ${what} ${file === "main" ? 0 : Math.floor(at / PAGE_AT_LEAST)}`;
      pages.set(key, [...(pages.get(key) ?? []), row]);
    }
    const parts = new Map<StoreRow, string | null>();
    for (const together of pages.values()) {
      const each = together.map((row) =>
        this.#tables.filter((known) => row.row.among?.includes(known.table.table) && this.#canBeOf(row, known)),
      );
      const all = this.#tables.filter((known) => each.every((some) => some.includes(known)));
      for (const [index, row] of together.entries()) {
        const fitting = all.length > 0 ? all : each[index];
        // The table that it looks most like, or whose page it lies in: where it can be of that one, that is the likeliest by far.
        const likeliest = fitting.length === 1 ? fitting[0] : fitting.find((known) => known.table.table === row.row.table);
        parts.set(row, likeliest?.part ?? null);
      }
    }
    return parts;
  }

  #canBeOf(row: StoreRow, known: Known): boolean {
    const context: Context = { row, part: known.part, joined: new Map() };
    const sender = this.#reading.sender(context);
    if (sender !== null && known.senders.size > 0 && !known.senders.has(sender)) return false;
    const id = numberOf(row.row.rowid ?? undefined);
    const time = this.#reading.time(context);
    if (id === undefined) return true;
    if (known.taken.has(id)) return false;
    if (time === undefined || !known.inOrder) return true;
    const behind = firstAbove(known.ids, id);
    return (behind === 0 || known.times[behind - 1] <= time) && (behind === known.ids.length || known.times[behind] >= time);
  }
}

function firstAbove(ids: readonly number[], id: number): number {
  let from = 0;
  let to = ids.length;
  while (from < to) {
    const middle = (from + to) >> 1;
    if (ids[middle] > id) to = middle;
    else from = middle + 1;
  }
  return from;
}
