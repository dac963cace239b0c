import { grown } from "../../bytes/grown.ts";
import type { FileName } from "../files/database-files.ts";
import type { Table } from "../format/schema.ts";
import type { Values } from "../format/values.ts";
import type { Row, RowEvidence, Version } from "./row.ts";

/** Names by the number that stands for them in a column of bytes. */
const ROW_STATES = ["present", "erased", "unclear"] as const satisfies readonly Row["state"][];
const CONDITIONS = ["whole", "damaged", "remnant"] as const satisfies readonly Row["condition"][];
const FILES = ["main", "wal", "journal"] as const satisfies readonly FileName[];

/** What of a row stands in no column. Of a row that a reader sees: what it held before. Of another one: all of it, since nobody else reads it. */
export interface RowRest {
  readonly values: Values | null;
  /** Row ids that a column of numbers cannot hold exactly. */
  readonly rowid?: bigint;
  /** Numbers of the tables that it may be of. */
  readonly among?: readonly number[];
  readonly evidence?: readonly RowEvidence[];
  readonly versions?: readonly Version[];
}

/** What stands in no column, by the number of its row. */
export type RowRests = ReadonlyMap<number, RowRest>;

/** Has a row a rest, and does that tell of older contents? */
const More = { nothing: 0, rest: 1, versions: 2 } as const;

/** Some rows of one database as they are kept: flat columns, one element a row. */
export interface RowChunk {
  /** Number of its table in the list of tables. */
  readonly table: Uint16Array;
  /** NaN: it has none, or one that stands in its rest. */
  readonly rowid: Float64Array;
  readonly state: Uint8Array;
  readonly condition: Uint8Array;
  readonly file: Uint8Array;
  readonly page: Uint32Array;
  /** Byte offset of its cell in its file. */
  readonly at: Float64Array;
  /** Of which rows more is known than stands in the columns. */
  readonly more: Uint8Array;
}

/** What stands in the columns of one row. */
export interface RowPlace {
  readonly table: Table;
  readonly rowid: number | null;
  readonly state: Row["state"];
  readonly condition: Row["condition"];
  readonly file: FileName;
  readonly page: number;
  readonly at: number;
}

const FIRST_ROOM = 512;
/** Rows that are told of are of so many tables at most: the number of a table has two bytes. */
const MOST_TABLES = 0xffff;

const emptyChunk = (room: number): RowChunk => ({
  table: new Uint16Array(room),
  rowid: new Float64Array(room),
  state: new Uint8Array(room),
  condition: new Uint8Array(room),
  file: new Uint8Array(room),
  page: new Uint32Array(room),
  at: new Float64Array(room),
  more: new Uint8Array(room),
});

/**
 * Rows of one database in flat columns: 25 bytes for one that a reader sees, whose values are read from its page when they are asked for. Of the
 * others the values stand here.
 */
export class RowColumns {
  /** Tables that rows are of, by number. */
  readonly tables: Table[] = [];
  readonly #numbers = new Map<Table, number>();
  readonly #rests = new Map<number, RowRest>();
  readonly #fetch: ((row: number) => Promise<RowRest | null>) | null;
  #columns = emptyChunk(FIRST_ROOM);
  #length = 0;

  /**
   * `tables`: those that are known already, in their order. `room`: rows that come. `fetch`: where the rests of rows are got that were appended without
   * theirs.
   */
  constructor(tables: readonly Table[] = [], room = FIRST_ROOM, fetch: ((row: number) => Promise<RowRest | null>) | null = null) {
    this.tables.push(...tables);
    this.#columns = emptyChunk(room);
    this.#fetch = fetch;
  }

  get length(): number {
    return this.#length;
  }

  /** A table is the same by what it is, not by who read it: a scan that goes on reads the schema anew. */
  #numberOf(table: Table): number {
    const known = this.#numbers.get(table);
    if (known !== undefined) return known;
    const words = JSON.stringify(table);
    let number = this.tables.findIndex((one) => JSON.stringify(one) === words);
    if (number < 0) number = this.tables.length < MOST_TABLES ? this.tables.push(table) - 1 : MOST_TABLES - 1;
    this.#numbers.set(table, number);
    return number;
  }

  #makeRoom(rows: number): void {
    const room = this.#columns.table.length;
    if (rows <= room) return;
    const fresh = emptyChunk(Math.max(rows, room * 2));
    const old = this.#columns;
    for (const name of Object.keys(old) as (keyof RowChunk)[]) grown(old[name] as Float64Array, fresh[name] as Float64Array);
    this.#columns = fresh;
  }

  put(row: Row): void {
    const number = this.#length++;
    this.#makeRoom(this.#length);
    const columns = this.#columns;
    const [first] = row.evidence;
    const { rowid, state } = row;
    columns.table[number] = this.#numberOf(row.table);
    columns.rowid[number] = typeof rowid === "number" ? rowid : Number.NaN;
    columns.state[number] = ROW_STATES.indexOf(state);
    columns.file[number] = FILES.indexOf(first.file);
    columns.page[number] = first.page;
    columns.at[number] = first.at;
    const rest = this.#restOf(row);
    // How whole a row is that a reader sees shows when it is read.
    if (rest?.values) columns.condition[number] = CONDITIONS.indexOf(row.condition);
    columns.more[number] = rest ? (rest.versions ? More.versions : More.rest) : More.nothing;
    if (rest) this.#rests.set(number, rest);
  }

  #restOf(row: Row): RowRest | null {
    const { rowid, versions } = row;
    const more = { ...(typeof rowid === "bigint" && { rowid }), ...(versions.length > 0 && { versions }) };
    if (row.state === "present" && row.evidence[0].what === "live") return Object.keys(more).length > 0 ? { values: null, ...more } : null;
    const among = row.among?.map((table) => this.#numberOf(table));
    return { ...more, values: row.values, evidence: row.evidence, ...(among && { among }) };
  }

  /** Takes in rows that were kept, with their rests or without. */
  append(chunk: RowChunk, rests: RowRests | null): void {
    const from = this.#length;
    this.#length += chunk.table.length;
    this.#makeRoom(this.#length);
    for (const name of Object.keys(this.#columns) as (keyof RowChunk)[]) this.#columns[name].set(chunk[name], from);
    for (const [number, one] of rests ?? []) this.#rests.set(from + number, one);
  }

  /** Rows `from` to `to`, as they are kept. */
  chunk(from: number, to: number): RowChunk {
    const end = Math.min(to, this.#length);
    const { table, rowid, state, condition, file, page, at, more } = this.#columns;
    return {
      table: table.slice(from, end),
      rowid: rowid.slice(from, end),
      state: state.slice(from, end),
      condition: condition.slice(from, end),
      file: file.slice(from, end),
      page: page.slice(from, end),
      at: at.slice(from, end),
      more: more.slice(from, end),
    };
  }

  /** What stands in no column of rows `from` to `to`, counted from the first of them. */
  rests(from: number, to: number): RowRests {
    const some = new Map<number, RowRest>();
    for (let row = from; row < Math.min(to, this.#length); row++) {
      const one = this.#rests.get(row);
      if (one) some.set(row - from, one);
    }
    return some;
  }

  /** Forgets all rows; the tables stay. */
  clear(): void {
    this.#length = 0;
    this.#rests.clear();
  }

  tableOf = (row: number): number => this.#columns.table[row];
  stateOf = (row: number): Row["state"] => ROW_STATES[this.#columns.state[row]];
  /** Are older contents of it known? */
  isEdited = (row: number): boolean => this.#columns.more[row] === More.versions;

  async restOf(row: number): Promise<RowRest | null> {
    if (this.#columns.more[row] === More.nothing) return null;
    return this.#rests.get(row) ?? (await this.#fetch?.(row)) ?? null;
  }

  /** What its columns say. A row id that is too large for them stands in its rest. */
  placeOf(row: number): RowPlace {
    const { table, rowid, condition, file, page, at } = this.#columns;
    return {
      table: this.tables[table[row]],
      rowid: Number.isNaN(rowid[row]) ? null : rowid[row],
      state: this.stateOf(row),
      condition: CONDITIONS[condition[row]],
      file: FILES[file[row]],
      page: page[row],
      at: at[row],
    };
  }
}
