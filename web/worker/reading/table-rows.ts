import type { Find } from "../../../core/finds/find.ts";
import type { FoundRecord, Stored } from "../../../core/finds/record.ts";
import { recordOf } from "../../../core/scan/row-records.ts";
import type { RowColumns } from "../../../core/sqlite/rows/row-columns.ts";
import type { RowReader } from "../../../core/sqlite/rows/row-reader.ts";
import { type RowState, rowState } from "./tables-protocol.ts";

/** The rows of one table, by number. */
export interface TableRows {
  readonly length: number;
  stateOf(row: number): RowState;
  isEdited(row: number): boolean;
  record(row: number): Promise<FoundRecord>;
}

/** Entries of an export, which are there as they are. */
export class EntryRows implements TableRows {
  readonly #records: FoundRecord[] = [];

  push(record: FoundRecord): void {
    this.#records.push(record);
  }
  get length(): number {
    return this.#records.length;
  }
  stateOf = (row: number): RowState => rowState(this.#records[row]);
  isEdited = (row: number): boolean => this.#records[row].versions !== undefined;
  record = async (row: number): Promise<FoundRecord> => this.#records[row];
  /** Columns that any of them has, in the order in which they come. */
  columns(): string[] {
    return [...new Set(this.#records.flatMap(({ columns }) => Object.keys(columns)))];
  }
}

/** Rows of a database that lie in flat columns, and are read from their pages when they are looked at. */
export class DatabaseRows implements TableRows {
  readonly #rows: RowColumns;
  /** Their numbers among all rows of the database. */
  readonly #numbers: Uint32Array;
  readonly #reader: RowReader;
  readonly #find: Find;

  constructor(rows: RowColumns, numbers: Uint32Array, reader: RowReader, find: Find) {
    this.#rows = rows;
    this.#numbers = numbers;
    this.#reader = reader;
    this.#find = find;
  }

  get length(): number {
    return this.#numbers.length;
  }
  stateOf = (row: number): RowState => this.#rows.stateOf(this.#numbers[row]);
  isEdited = (row: number): boolean => this.#rows.isEdited(this.#numbers[row]);
  async record(row: number): Promise<FoundRecord> {
    return recordOf(await this.#reader.row(this.#rows, this.#numbers[row]), this.#find);
  }
}

/** The numbers of the rows of each table, in their order. */
export function rowsByTable(rows: RowColumns): Uint32Array[] {
  const counts = new Uint32Array(rows.tables.length);
  for (let row = 0; row < rows.length; row++) counts[rows.tableOf(row)]++;
  const numbers = Array.from(counts, (count) => new Uint32Array(count));
  counts.fill(0);
  for (let row = 0; row < rows.length; row++) {
    const table = rows.tableOf(row);
    numbers[table][counts[table]++] = row;
  }
  return numbers;
}

/** What of a value is searched: of texts that are whole books their first million letters. */
const SEARCHED_LETTERS = 1_000_000;
const spoken = (value: Stored): string => (value === null || value instanceof Uint8Array ? "" : String(value));
/** All that is searched of a row. */
export const wordsOf = ({ columns }: FoundRecord): string =>
  Object.values(columns)
    .map((value) => spoken(value).slice(0, SEARCHED_LETTERS))
    .join("\n")
    .toLowerCase();

const RANK = { number: 1, bigint: 1, string: 2, object: 3, undefined: 0, boolean: 0, symbol: 0, function: 0 } as const;
/** As the database itself would sort: nothing, numbers, texts, bytes ("Datatypes In SQLite" §4.1). */
export function compareStored(a: Stored | undefined, b: Stored | undefined): number {
  if (a === null || a === undefined || b === null || b === undefined)
    return Number(b === null || b === undefined) - Number(a === null || a === undefined);
  const rank = RANK[typeof a] - RANK[typeof b];
  if (rank !== 0) return rank;
  if (typeof a === "string" && typeof b === "string") return a.localeCompare(b);
  return a < b ? -1 : a > b ? 1 : 0;
}
