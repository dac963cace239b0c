import type { FoundRecord, RecordEvidence, Stored } from "../../../core/finds/record.ts";
import type { PageMap } from "../../../core/sqlite/format/page-map.ts";
import type { Found } from "../finds/protocol.ts";

/** What screen and worker say to each other of the tables of a database. */

/** Name of the column that the row id stands in where no column of the table does. */
export const ROWID = "row id";

/** The value of a row in a column; undefined: not known. */
export const cellOf = (row: FoundRecord, column: string): Stored | undefined =>
  column === ROWID ? (row.rowid ?? undefined) : row.columns[column];

/** A row as a screen has it: of long texts and data the beginning. `sizes`: of each column whose data were cut, how many bytes there are. */
export interface ShownRow extends FoundRecord {
  readonly sizes?: Readonly<Record<string, number>>;
}

/** A value of a row that is data, as something that can be looked at. */
export type CellAnswer = { readonly find: Found } | { readonly word: string };

/** States that rows are told apart by here. Unclear: there or erased, and nothing says which. */
export const ROW_STATES = ["present", "erased", "unclear"] as const;
export type RowState = (typeof ROW_STATES)[number];
export const rowState = ({ state }: Pick<FoundRecord, "state">): RowState =>
  state === "erased" || state === "unclear" ? state : "present";

/** What a column holds, by some of its rows: letters of its texts on average (0: it holds none), and what its numbers count since 1970 if they are moments. */
export interface ColumnHabit {
  readonly name: string;
  readonly letters: number;
  readonly time: "s" | "ms" | null;
}

export interface TableInfo {
  readonly name: string;
  readonly columns: readonly string[];
  readonly present: number;
  readonly erased: number;
  readonly unclear: number;
  /** Rows of which older contents are known. */
  readonly edited: number;
}

export type TablesOutcome = { readonly ok: true; readonly tables: readonly TableInfo[] } | { readonly ok: false; readonly because: string };

export interface TableQuery {
  readonly table: string;
  /** Empty: all. */
  readonly states: readonly RowState[];
  /** Only rows of which older contents are known. */
  readonly edited: boolean;
  /** Words that any of the columns must hold, all of them, in any case. */
  readonly words: string;
  readonly sort: { readonly column: string; readonly descending: boolean } | null;
}

/** How many rows pass; and of those that hold the words, how many are in each state. */
export interface TableAnswer extends Readonly<Record<RowState, number>> {
  readonly total: number;
  readonly edited: number;
}

/** A page with what is known of it. `cell`, `cellEnd`: where the row that was asked for begins in it, and ends. */
export interface PageView {
  readonly page: number;
  readonly file: RecordEvidence["file"];
  /** Byte offset of the page in its file. */
  readonly at: number;
  readonly cell: number;
  readonly cellEnd: number;
  readonly bytes: Uint8Array;
  readonly map: PageMap;
}
