import { Contents } from "../../../core/archives/stream.ts";
import type { PatientSource } from "../../../core/bytes/patient-source.ts";
import type { Find } from "../../../core/finds/find.ts";
import { type FoundRecord, namelessWords, type RecordEvidence, type Stored, tableWords } from "../../../core/finds/record.ts";
import { DatabaseFinds, sourcesOf } from "../../../core/scan/database-finds.ts";
import { readRecords } from "../../../core/scan/records.ts";
import { DatabaseFiles } from "../../../core/sqlite/files/database-files.ts";
import { mapPage, rowEnd } from "../../../core/sqlite/format/page-map.ts";
import type { Table } from "../../../core/sqlite/format/schema.ts";
import { RowColumns } from "../../../core/sqlite/rows/row-columns.ts";
import { RowReader } from "../../../core/sqlite/rows/row-reader.ts";
import { columnHabits } from "./column-habits.ts";
import { forScreen } from "./first-letters.ts";
import { compareStored, DatabaseRows, EntryRows, rowsByTable, type TableRows, wordsOf } from "./table-rows.ts";
import {
  type ColumnHabit,
  cellOf,
  type PageView,
  type ShownRow,
  type TableAnswer,
  type TableInfo,
  type TableQuery,
} from "./tables-protocol.ts";

interface OpenTable {
  readonly info: TableInfo;
  readonly rows: TableRows;
}

const NAMES: Record<FoundRecord["kind"], string> = {
  contact: "contacts",
  message: "messages",
  call: "calls",
  event: "events",
  media: "media",
  chat: "chats",
  conversation: "conversations",
  row: "rows",
};
const NOTHING_ASKED: TableAnswer = { total: 0, present: 0, erased: 0, unclear: 0, edited: 0 };
/** Rows after which whoever waits is let through. */
const BREATH = 4096;
/** Rows by which it is told what columns hold. */
const SAMPLED = 120;
/** Rows that are known by their id after they were handed out. */
const MOST_SHOWN = 5000;

/** One database, address book or export that is open: its tables with all their rows, erased ones too. */
export class TableDesk {
  readonly find: Find;
  readonly #tables = new Map<string, OpenTable>();
  #files: DatabaseFiles | null = null;
  #answer: { readonly table: OpenTable; readonly rows: Uint32Array } | null = null;
  /** Number of the question that was asked last: one before it is given up. */
  #asked = 0;
  /** Where the rows stand that were handed out last. */
  readonly #shown = new Map<string, { readonly table: OpenTable; readonly row: number }>();

  private constructor(find: Find) {
    this.find = find;
  }

  /**
   * Reads a find as tables. `set`: the find with its log and journal, where it is a database. `kept`: its rows, where a scan told of them already; else it is
   * read anew, and `tell` hears which part is done.
   */
  static async open(
    find: Find,
    set: readonly Find[],
    source: PatientSource,
    kept: RowColumns | null,
    signal: AbortSignal,
    tell: (part: number) => void,
  ): Promise<TableDesk> {
    const desk = new TableDesk(find);
    const chosen = new DatabaseFinds();
    for (const one of set.length > 0 ? set : [find]) chosen.note(one);
    const [database] = chosen.databases();
    const sources = database ? sourcesOf(database, new Contents(source)) : null;
    if (sources) desk.#files = await DatabaseFiles.open(sources);
    const rows = kept ?? new RowColumns();
    const entries = new Map<string, EntryRows>();
    let told = 0;
    if (!kept)
      for await (const { records = [], rows: found, done, total } of readRecords(chosen, source, signal, null)) {
        for (const row of found?.rows ?? []) rows.put(row);
        for (const record of records) desk.#takeEntry(record, entries);
        const part = total === 0 ? 1 : done / total;
        if (part - told > 0.01) tell((told = part));
      }
    if (desk.#files) desk.#addTables(rows, new RowReader(desk.#files));
    for (const [name, some] of entries) desk.#add(name, some.columns(), some);
    return desk;
  }

  #takeEntry(record: FoundRecord, entries: Map<string, EntryRows>): void {
    const name = tableWords(record) ?? NAMES[record.kind];
    let some = entries.get(name);
    if (!some) entries.set(name, (some = new EntryRows()));
    some.push(record);
  }

  #addTables(rows: RowColumns, reader: RowReader): void {
    for (const [number, some] of rowsByTable(rows).entries()) {
      if (some.length === 0) continue;
      const table = rows.tables[number];
      const columns = table.columns.filter(({ virtual }) => !virtual).map(({ name }) => name);
      this.#add(nameOf(table), columns, new DatabaseRows(rows, some, reader, this.find));
    }
  }

  #add(name: string, columns: readonly string[], rows: TableRows): void {
    const counts = { present: 0, erased: 0, unclear: 0, edited: 0 };
    for (let row = 0; row < rows.length; row++) {
      counts[rows.stateOf(row)]++;
      if (rows.isEdited(row)) counts.edited++;
    }
    // Two tables of one name are of two schemas: an older one is still told of.
    let free = name;
    for (let number = 2; this.#tables.has(free); number++) free = `${name}, another ${number}`;
    this.#tables.set(free, { info: { name: free, columns, ...counts }, rows });
  }

  tables(): TableInfo[] {
    return [...this.#tables.values()]
      .map(({ info }) => info)
      .sort((a, b) => b.erased - a.erased || b.present - a.present || a.name.localeCompare(b.name));
  }

  /** What the columns of a table hold, by rows from all over it. */
  async habits(name: string): Promise<ColumnHabit[]> {
    const table = this.#tables.get(name);
    if (!table) return [];
    const { rows, info } = table;
    const step = Math.max(1, Math.floor(rows.length / SAMPLED));
    const some: FoundRecord[] = [];
    for (let row = 0; row < rows.length && some.length < SAMPLED; row += step) some.push(await rows.record(row));
    return columnHabits(info.columns, some);
  }

  /** Which rows pass, in which order. A question that another one overtakes is answered with nothing. */
  async ask({ table: name, states, edited, words, sort }: TableQuery): Promise<TableAnswer> {
    const table = this.#tables.get(name);
    const question = ++this.#asked;
    if (!table) return NOTHING_ASKED;
    const { rows } = table;
    const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
    // All rows as they lie: what is asked first, of tables of any size.
    if (wanted.length === 0 && !sort && states.length === 0 && !edited) {
      const { present, erased, unclear, edited: changed } = table.info;
      this.#answer = { table, rows: new Uint32Array(rows.length).map((_, row) => row) };
      return { total: rows.length, present, erased, unclear, edited: changed };
    }
    const counts = { present: 0, erased: 0, unclear: 0, edited: 0 };
    const passed: number[] = [];
    const keys: (Stored | undefined)[] = [];
    for (let row = 0; row < rows.length; row++) {
      if (row % BREATH === 0 && (wanted.length > 0 || sort)) await breath();
      if (question !== this.#asked) return NOTHING_ASKED;
      const isReadFor = wanted.length > 0 || (sort !== null && passes(rows, row, states, edited));
      const record = isReadFor ? await rows.record(row) : null;
      if (record && wanted.length > 0) {
        const all = wordsOf(record);
        if (!wanted.every((word) => all.includes(word))) continue;
      }
      counts[rows.stateOf(row)]++;
      if (rows.isEdited(row)) counts.edited++;
      if (!passes(rows, row, states, edited)) continue;
      if (sort) keys[row] = record ? cellOf(record, sort.column) : undefined;
      passed.push(row);
    }
    if (sort) passed.sort((a, b) => compareStored(keys[a], keys[b]) * (sort.descending ? -1 : 1) || a - b);
    this.#answer = { table, rows: Uint32Array.from(passed) };
    return { total: passed.length, ...counts };
  }

  async window(from: number, to: number): Promise<ShownRow[]> {
    const answer = this.#answer;
    const records: ShownRow[] = [];
    for (const row of answer?.rows.slice(from, to) ?? []) {
      if (!answer) break;
      const record = await answer.table.rows.record(row);
      records.push(forScreen(record));
      this.#shown.delete(record.id);
      this.#shown.set(record.id, { table: answer.table, row });
    }
    for (const id of this.#shown.keys()) {
      if (this.#shown.size <= MOST_SHOWN) break;
      this.#shown.delete(id);
    }
    return records;
  }

  /** The data that a row which was shown holds in a column. Null: no such row is shown any more, or no data stand there. */
  async data(id: string, column: string): Promise<Uint8Array | null> {
    const shown = this.#shown.get(id);
    const value = shown && (await shown.table.rows.record(shown.row)).columns[column];
    return value instanceof Uint8Array ? value : null;
  }

  /** The page that a row was read from. @returns null where it was none of a database's */
  async page({ page, file, at }: RecordEvidence): Promise<PageView | null> {
    const files = this.#files;
    if (!files || page === null) return null;
    const image = files.imageAt(file, page, at);
    const bytes = image && (await files.read(image));
    if (!image || !bytes) return null;
    return {
      page,
      file,
      at: image.at,
      cell: at - image.at,
      cellEnd: rowEnd(bytes, at - image.at, files.form),
      bytes: bytes.slice(),
      map: mapPage(bytes, files.form, page === 1),
    };
  }
}

const nameOf = ({ name, nameless }: Table): string => (nameless === undefined ? name : namelessWords(nameless));

const passes = (rows: TableRows, row: number, states: TableQuery["states"], edited: boolean): boolean =>
  (states.length === 0 || states.includes(rows.stateOf(row))) && (!edited || rows.isEdited(row));

/** Lets the worker hear what else it is asked. */
const breath = (): Promise<void> => new Promise((go) => setTimeout(go));
