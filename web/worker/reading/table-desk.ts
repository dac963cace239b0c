import type { PatientSource } from "../../../core/bytes/patient-source.ts";
import type { Find } from "../../../core/finds/find.ts";
import { type FoundRecord, type RecordEvidence, type Stored, tableWords } from "../../../core/finds/record.ts";
import { DatabaseFinds, sourcesOf } from "../../../core/scan/database-finds.ts";
import { readRecords } from "../../../core/scan/records.ts";
import { DatabaseFiles } from "../../../core/sqlite/files/database-files.ts";
import { mapPage, rowEnd } from "../../../core/sqlite/format/page-map.ts";
import { forScreen } from "./first-letters.ts";
import { cellOf, type PageView, rowState, type TableAnswer, type TableInfo, type TableQuery } from "./tables-protocol.ts";

/** Rows that are there and are kept for looking: erased ones are kept whatever their number. */
const MOST_PRESENT = 300_000;

interface OpenTable {
  readonly info: { name: string; columns: Set<string>; present: number; erased: number; unclear: number; edited: number; leftOut: number };
  readonly rows: FoundRecord[];
  /** All that is searched, by row, made at the first search. */
  words: string[] | null;
}

const NAMES: Record<FoundRecord["kind"], string> = {
  contact: "contacts",
  message: "messages",
  call: "calls",
  event: "events",
  media: "media",
  chat: "chats",
  row: "rows",
};

/** One database, address book or export that is open: its tables with all their rows, erased ones too. */
export class TableDesk {
  readonly find: Find;
  readonly #tables = new Map<string, OpenTable>();
  #files: DatabaseFiles | null = null;
  #answer: { readonly table: OpenTable; readonly rows: Uint32Array } | null = null;

  private constructor(find: Find) {
    this.find = find;
  }

  /** Reads a find as tables. `set`: the find with its log and journal, where it is a database. */
  static async open(
    find: Find,
    set: readonly Find[],
    source: PatientSource,
    signal: AbortSignal,
    tell: (part: number) => void,
  ): Promise<TableDesk> {
    const desk = new TableDesk(find);
    const chosen = new DatabaseFinds();
    for (const one of set.length > 0 ? set : [find]) chosen.note(one);
    let told = 0;
    for await (const { records = [], done, total } of readRecords(chosen, source, signal)) {
      for (const record of records) desk.#take(record);
      const part = total === 0 ? 1 : done / total;
      if (part - told > 0.01) tell((told = part));
    }
    const [database] = chosen.databases();
    if (database) desk.#files = await DatabaseFiles.open(sourcesOf(database, source));
    return desk;
  }

  #take(record: FoundRecord): void {
    const name = tableWords(record) ?? NAMES[record.kind];
    let table = this.#tables.get(name);
    if (!table) {
      table = { info: { name, columns: new Set(), present: 0, erased: 0, unclear: 0, edited: 0, leftOut: 0 }, rows: [], words: null };
      this.#tables.set(name, table);
    }
    const { info, rows } = table;
    for (const column of Object.keys(record.columns)) info.columns.add(column);
    const state = rowState(record);
    info[state]++;
    if (record.versions) info.edited++;
    if (state === "present" && !record.versions && info.present > MOST_PRESENT) info.leftOut++;
    else rows.push(record);
  }

  tables(): TableInfo[] {
    return [...this.#tables.values()]
      .map(({ info }) => ({ ...info, columns: [...info.columns] }))
      .sort((a, b) => b.erased - a.erased || b.present - a.present || a.name.localeCompare(b.name));
  }

  ask({ table: name, states, edited, words, sort }: TableQuery): TableAnswer {
    const table = this.#tables.get(name);
    if (!table) return { total: 0, present: 0, erased: 0, unclear: 0, edited: 0 };
    const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
    if (wanted.length > 0) table.words ??= table.rows.map((row) => Object.values(row.columns).map(searched).join("\n").toLowerCase());
    const counts = { present: 0, erased: 0, unclear: 0, edited: 0 };
    const passed: number[] = [];
    for (let index = 0; index < table.rows.length; index++) {
      const row = table.rows[index];
      if (wanted.length > 0 && !wanted.every((word) => table.words?.[index].includes(word))) continue;
      const state = rowState(row);
      counts[state]++;
      if (row.versions) counts.edited++;
      if (states.length > 0 && !states.includes(state)) continue;
      if (edited && !row.versions) continue;
      passed.push(index);
    }
    if (sort)
      passed.sort(
        (a, b) => compare(cellOf(table.rows[a], sort.column), cellOf(table.rows[b], sort.column)) * (sort.descending ? -1 : 1) || a - b,
      );
    this.#answer = { table, rows: Uint32Array.from(passed) };
    return { total: passed.length, ...counts };
  }

  window(from: number, to: number): FoundRecord[] {
    const answer = this.#answer;
    return answer ? Array.from(answer.rows.slice(from, to), (row) => forScreen(answer.table.rows[row])) : [];
  }

  /** The page that a row was read from. @returns null where it was none of a database's */
  async page({ page, file, at }: RecordEvidence): Promise<PageView | null> {
    const files = this.#files;
    if (!files || page === null) return null;
    const { pageSize } = files.form;
    const image =
      file === "main" ? files.mainImage(page) : files.beside.find((one) => one.file === file && one.at <= at && at < one.at + pageSize);
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

/** What of a value is searched: of texts that are whole books their first million letters. */
const SEARCHED_LETTERS = 1_000_000;
const searched = (value: Stored): string => spoken(value).slice(0, SEARCHED_LETTERS);
const spoken = (value: Stored): string => (value === null || value instanceof Uint8Array ? "" : String(value));

const RANK = { number: 1, bigint: 1, string: 2, object: 3, undefined: 0, boolean: 0, symbol: 0, function: 0 } as const;
/** As the database itself would sort: nothing, numbers, texts, bytes ("Datatypes In SQLite" §4.1). */
function compare(a: Stored | undefined, b: Stored | undefined): number {
  if (a === null || a === undefined || b === null || b === undefined)
    return Number(b === null || b === undefined) - Number(a === null || a === undefined);
  const rank = RANK[typeof a] - RANK[typeof b];
  if (rank !== 0) return rank;
  if (typeof a === "string" && typeof b === "string") return a.localeCompare(b);
  return a < b ? -1 : a > b ? 1 : 0;
}
