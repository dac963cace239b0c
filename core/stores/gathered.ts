import type { RecordState } from "../finds/record.ts";
import type { Value } from "../sqlite/format/record.ts";
import type { Table } from "../sqlite/format/schema.ts";
import type { Row } from "../sqlite/rows/row.ts";
import { placeOf, rowIdOf } from "./row-ids.ts";

/** A row of a recovered database as the stores see it. Values are read from its page when they are asked for. */
export class StoreRow {
  readonly row: Row;
  readonly #prefix: string;
  #values: Row["values"] | null = null;

  /** `prefix`: of its database. */
  constructor(row: Row, prefix: string) {
    this.row = row;
    this.#prefix = prefix;
  }

  /** By the columns of its table. Undefined: not known. */
  get values(): Row["values"] {
    this.#values ??= this.row.values;
    return this.#values;
  }

  get id(): string {
    return rowIdOf(this.row, this.#prefix);
  }

  get isThere(): boolean {
    return this.row.state === "present";
  }

  get state(): RecordState {
    return this.row.state;
  }

  get evidence() {
    return this.row.evidence.map(placeOf);
  }
}

/** The rows of one table, there and erased. */
export class StoreTable {
  readonly table: Table;
  readonly rows: StoreRow[] = [];
  readonly #indexes = new Map<number, ReadonlyMap<string, readonly StoreRow[]>>();

  constructor(table: Table) {
    this.table = table;
  }

  get name(): string {
    return this.table.name;
  }

  /** @returns -1 where it has no such column */
  column(name: string): number {
    return this.table.columns.findIndex((one) => one.name === name);
  }

  has(...names: readonly string[]): boolean {
    return names.every((name) => this.column(name) >= 0);
  }

  /** Rows by what a column says, those that are there first. `column` ROWID: by row id. */
  by(column: number): ReadonlyMap<string, readonly StoreRow[]> {
    const known = this.#indexes.get(column);
    if (known) return known;
    const index = new Map<string, StoreRow[]>();
    for (const row of this.rows) {
      const key = keyOf(storedAt(row, column));
      if (key === null) continue;
      const some = index.get(key);
      if (some) some.push(row);
      else index.set(key, [row]);
    }
    for (const some of index.values()) if (some.length > 1) some.sort((a, b) => Number(b.isThere) - Number(a.isThere));
    this.#indexes.set(column, index);
    return index;
  }

  /** The rows that say so in a column: those that are there, or else erased ones. */
  find(column: string | number, value: Value | undefined): readonly StoreRow[] {
    const at = typeof column === "number" ? column : this.column(column);
    const key = keyOf(value);
    if (key === null || (at < 0 && at !== ROWID)) return NONE;
    return this.by(at).get(key) ?? NONE;
  }

  first(column: string | number, value: Value | undefined): StoreRow | undefined {
    return this.find(column, value)[0];
  }

  #numbers: Float64Array | null = null;
  /** Rows whose ids are lost. */
  #nameless = 0;
  /** Its row ids, there and erased, in order; empty where they are no running numbers (an app's own, drawn by chance). */
  #running(): Float64Array {
    if (this.#numbers) return this.#numbers;
    const ids = this.rows.flatMap(({ row: { rowid } }) => (rowid === null ? [] : [Number(rowid)]));
    const numbers = Float64Array.from(new Set(ids)).sort();
    this.#nameless = this.rows.length - ids.length;
    const span = numbers.length > 0 ? numbers[numbers.length - 1] - numbers[0] + 1 : 0;
    this.#numbers = numbers.length * MOST_SPARSE >= span ? numbers : new Float64Array();
    return this.#numbers;
  }

  /**
   * How many row ids at least are missing right before one: rows of which nothing is left ("CREATE TABLE", ROWIDs: each is one above the largest). Erased rows
   * whose ids are lost may be any of them, and are taken off each.
   */
  missingBefore(row: StoreRow): number {
    const { rowid } = row.row;
    const numbers = rowid === null ? null : this.#running();
    if (!numbers) return 0;
    let [low, high] = [0, numbers.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (numbers[middle] < Number(rowid)) low = middle + 1;
      else high = middle;
    }
    if (low === 0 || numbers[low] !== Number(rowid)) return 0;
    return Math.max(0, numbers[low] - numbers[low - 1] - 1 - this.#nameless);
  }

  /** What a row says in a column of a name. Undefined: not known, or there is no such column. */
  get(row: StoreRow, name: string): Value | undefined {
    const at = this.column(name);
    return at < 0 ? undefined : row.values[at];
  }

  text(row: StoreRow, name: string): string | undefined {
    return textOf(this.get(row, name));
  }

  number(row: StoreRow, name: string): number | undefined {
    return numberOf(this.get(row, name));
  }
}

/** Where more than so many ids of one row are missing they are no running numbers. */
const MOST_SPARSE = 3;

/** Stands for the row id where a column's number is asked for. */
export const ROWID = -2;
const NONE: readonly StoreRow[] = [];

export const storedAt = (row: StoreRow, column: number): Value | undefined =>
  column === ROWID ? (row.row.rowid ?? undefined) : row.values[column];

/** What two values that name the same thing have in common, whatever type each has. Null: names nothing. */
export function keyOf(value: Value | undefined): string | null {
  if (value === undefined || value === null || value === "") return null;
  if (value instanceof Uint8Array) return value.length > 0 && value.length <= MOST_KEY ? hex(value) : null;
  return String(value);
}

/** Bytes that are a key are few. */
const MOST_KEY = 64;
const hex = (bytes: Uint8Array): string => Array.from(bytes, (one) => one.toString(16).padStart(2, "0")).join("");

export const textOf = (value: Value | undefined): string | undefined =>
  typeof value === "string" ? value : typeof value === "number" || typeof value === "bigint" ? String(value) : undefined;

export const numberOf = (value: Value | undefined): number | undefined =>
  typeof value === "number"
    ? value
    : typeof value === "bigint"
      ? Number(value)
      : typeof value === "string" && /^-?\d{1,19}(\.\d+)?$/.test(value)
        ? Number(value)
        : undefined;

/** A moment in ISO 8601. Undefined: it is none that a clock has shown. @param time milliseconds since 1970 */
export function isoOf(time: number | undefined): string | undefined {
  if (time === undefined || !Number.isFinite(time) || Math.abs(time) > MOST_TIME) return undefined;
  return new Date(Math.floor(time)).toISOString();
}
/** Largest that a Date holds (ECMA-262 §21.4.1.1). */
const MOST_TIME = 8.64e15;

/** Rows and bytes of a database beyond which what people mean by it is not read: its rows and their pages must be in memory together. */
const MOST_ROWS = 2_000_000;
export const MOST_GATHERED = 512 * 1024 * 1024;

/** All rows of one recovered database by their tables. */
export class Gathered {
  readonly database: string | null;
  /** Where the database stands, as far as it is known: for names. */
  readonly path: string | null;
  readonly #tables = new Map<Table, StoreTable>();
  rows = 0;

  /** Asked: a phone's own providers told it, and there are no rows that could be shown beside what is meant by them. */
  readonly from: "database" | "asked";

  constructor(database: string | null, path: string | null, from: "database" | "asked" = "database") {
    this.database = database;
    this.path = path;
    this.from = from;
  }

  /** What ids of its entries begin with. */
  get prefix(): string {
    return this.database ?? (this.from === "asked" ? "asked" : "stray");
  }

  /** Ids of rows, as far as these are told of too. */
  idsOf(rows: readonly StoreRow[]): string[] {
    return this.from === "asked" ? [] : rows.map(({ id }) => id);
  }

  /** @returns false where they are too many */
  take(rows: readonly Row[]): boolean {
    for (const row of rows) {
      let table = this.#tables.get(row.table);
      if (!table) {
        table = new StoreTable(row.table);
        this.#tables.set(row.table, table);
      }
      table.rows.push(new StoreRow(row, this.prefix));
    }
    this.rows += rows.length;
    return this.rows <= MOST_ROWS;
  }

  /** The table that a row is of. */
  tableOf({ row }: StoreRow): StoreTable | undefined {
    return this.#tables.get(row.table);
  }

  get tables(): StoreTable[] {
    return [...this.#tables.values()];
  }

  /** A table by its name, with columns that it must have. */
  table(name: string, ...columns: readonly string[]): StoreTable | null {
    const wanted = name.toLowerCase();
    return this.tables.find((one) => one.name.toLowerCase() === wanted && one.has(...columns)) ?? null;
  }
}
