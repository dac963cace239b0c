import { extentsSource, totalLength } from "../bytes/extents.ts";
import type { PatientSource } from "../bytes/patient-source.ts";
import { UnreadableError } from "../bytes/source.ts";
import type { Trouble } from "../bytes/trouble.ts";
import { EXPORT_HEAD, exportReader, MAX_EXPORT } from "../exports/read-export.ts";
import type { Find } from "../finds/find.ts";
import { type FoundRecord, NAMELESS, type RecordEvidence, type Stored } from "../finds/record.ts";
import { DatabaseFiles } from "../sqlite/files/database-files.ts";
import { PageLedger } from "../sqlite/files/page-ledger.ts";
import type { Table } from "../sqlite/format/schema.ts";
import { recoverRows } from "../sqlite/recover.ts";
import { byName, type Row, type RowEvidence } from "../sqlite/rows/row.ts";
import { type StrayPage, StrayRows, strayPageAt } from "../sqlite/stray.ts";
import { readSchema } from "../sqlite/survey/read-schema.ts";
import { KNOWN_TABLES } from "../sqlite/tables/known-tables.ts";
import { type DatabaseFinds, type DatabaseSet, sourcesOf } from "./database-finds.ts";
import type { PassBatch } from "./events.ts";

/** Records handed on at once. */
const BATCH = 500;
/** Tables that stray pages are held against. */
const MAX_TABLES = 500;
/** Rows of stray pages that are kept until all databases were read. */
const MAX_STRAY_ROWS = 500_000;

const FILE_LETTER = { main: "", wal: "w", journal: "j" } as const;
const placeOf = ({ what, page, at, file }: RowEvidence): RecordEvidence => ({
  pass: "databases",
  what,
  page: page === 0 ? null : page,
  file,
  at,
});

/** A row as a record of the database find that holds it. */
export function recordOf(row: Row, find: Find | null): FoundRecord {
  const [first] = row.evidence;
  const { name, nameless } = row.table;
  const { among } = row;
  return {
    id: `${find?.id ?? "stray"}.${FILE_LETTER[first.file]}${first.at.toString(16)}.${nameless === undefined ? name : NAMELESS + nameless}`,
    kind: "row",
    state: row.state,
    condition: row.condition,
    database: find?.id ?? null,
    table: nameless === undefined ? name : null,
    ...(among && { tables: among.map((table) => table.name) }),
    rowid: row.rowid,
    columns: byName(row.table, row.values),
    evidence: row.evidence.map(placeOf),
    ...(row.versions.length > 0 && {
      versions: row.versions.map(({ values, evidence }) => ({ columns: byName(row.table, values), evidence: placeOf(evidence) })),
    }),
  };
}

const written = (value: Stored): string =>
  value instanceof Uint8Array ? `b${value.length}:${value.slice(0, 64).join()}` : `${typeof value}:${value}`;
/** What a row is, wherever it lies: its table and values; its row id only where that is not lost. */
const contentOf = ({ table, columns }: FoundRecord, without: string | null): string =>
  `${table}|${Object.entries(columns)
    .filter(([name, value]) => value !== null && name !== without)
    .map(([name, value]) => `${name}=${written(value)}`)
    .join("|")}`;

/** Where the databases pass goes on: databases and exports that are done, records told of the next one, and which rows of stray pages were struck off. */
export interface RecordsBegun {
  readonly at: number;
  readonly told: number;
  readonly struck: Uint8Array | null;
}
export const NOTHING_READ: RecordsBegun = { at: 0, told: 0, struck: null };

/**
 * The databases pass: every database that was found, present, binned or erased, with the log and journal beside it; exports of
 * people's data; and rows of pages that lie about by themselves, less those that a database tells of.
 */
export async function* readRecords(
  finds: DatabaseFinds,
  source: PatientSource,
  signal: AbortSignal,
  from = NOTHING_READ,
): AsyncGenerator<PassBatch> {
  const databases = finds.databases();
  const exports = finds.exports();
  const strays = finds.strays();
  const sizes = [...databases.map(({ find }) => find), ...exports].map(({ extents }) => totalLength(extents));
  const total = sizes.reduce((sum, size) => sum + size, 0) + strays.reduce((sum, { extents }) => sum + totalLength(extents), 0);
  const loose = strays.length > 0 ? new LooseRows(await strayRecords(strays, databases, source, signal), from.struck) : null;
  /** One after the other: databases, exports, and last what stray pages alone tell. */
  const units: (() => AsyncIterable<Told & { part: number }>)[] = [
    ...databases.map((set) => () => readDatabase(set, source, signal)),
    ...exports.map((find) => () => inBatches(readExport(find, source))),
    () => inBatches(Promise.resolve({ records: loose?.left() ?? [], troubles: [] })),
  ];
  /** Bytes of the units that are done. */
  let done = 0;
  const batch = (at: number, told: number, within: number, { records, troubles }: Told): PassBatch => ({
    finds: [],
    patches: [],
    troubles,
    records,
    done: Math.min(total, done + within),
    total,
    at,
    told,
    struck: loose?.struck ?? null,
  });
  for (const [at, read] of units.entries()) {
    const size = sizes[at] ?? 0;
    if (at < from.at) {
      done += size;
      continue;
    }
    signal.throwIfAborted();
    let told = 0;
    const before = at === from.at ? from.told : 0;
    for await (const { records, troubles, part } of read()) {
      if (at < databases.length) for (const record of records) loose?.strike(record);
      const fresh = told >= before ? records : records.slice(before - told);
      told += records.length;
      if (told < before && troubles.length === 0) continue;
      yield batch(at, Math.max(told, before), part * size, { records: fresh, troubles });
    }
    done += size;
    yield batch(at + 1, 0, 0, { records: [], troubles: [] });
  }
}

interface Told {
  readonly records: readonly FoundRecord[];
  readonly troubles: readonly Trouble[];
}

async function* inBatches(told: Promise<Told>): AsyncGenerator<Told & { part: number }> {
  const { records, troubles } = await told;
  if (troubles.length > 0) yield { records: [], troubles, part: 0 };
  for (let at = 0; at < records.length; at += BATCH)
    yield { records: records.slice(at, at + BATCH), troubles: [], part: Math.min(1, (at + BATCH) / records.length) };
}

/** Rows of one database, with how much of it was read, 0 to 1. Troubles name it; what it breaks on does not end the pass. */
async function* readDatabase(set: DatabaseSet, source: PatientSource, signal: AbortSignal): AsyncGenerator<Told & { part: number }> {
  const { find } = set;
  const name = find.path ?? find.name ?? find.id;
  const at = find.extents[0]?.offset ?? 0;
  const met = new Map<string, number>();
  const named = (what: string, times = 1): Trouble => ({
    what: `${name}: ${what}${times > 1 ? `, ${times} times` : ""}`,
    at,
    length: find.size,
  });
  try {
    const files = await DatabaseFiles.open(sourcesOf(set, source));
    if (!files) {
      yield { records: [], troubles: [named("nothing in it reads as a database")], part: 1 };
      return;
    }
    for await (const { rows, troubles, done, total } of recoverRows(files, KNOWN_TABLES, signal)) {
      for (const { what } of troubles) met.set(what, (met.get(what) ?? 0) + 1);
      yield { records: rows.map((row) => recordOf(row, find)), troubles: [], part: total === 0 ? 1 : done / total };
    }
    // The same thing is said once, however many pages it befell.
    yield { records: [], troubles: Array.from(met, ([what, times]) => named(what, times)), part: 1 };
  } catch (cause) {
    if (!(cause instanceof UnreadableError) || cause.forGood) throw cause;
    yield {
      records: [],
      troubles: [named("it cannot be read on: the medium does not answer")],
      part: 1,
    };
  }
}

/** Entries of an address book, a calendar or a message export. */
async function readExport(find: Find, source: PatientSource): Promise<Told> {
  const reader = exportReader(find.name, find.format);
  const at = find.extents[0]?.offset ?? 0;
  const length = totalLength(find.extents);
  if (!reader) return { records: [], troubles: [] };
  if (length > MAX_EXPORT) return { records: [], troubles: [{ what: `${find.name} is too large to be read as entries`, at, length }] };
  const content = extentsSource(source, find.extents);
  const records: FoundRecord[] = [];
  const lacking = new Map<string, number>();
  try {
    const head = await content.read(0, Math.min(EXPORT_HEAD, content.size));
    const nothing = reader.nothing(head);
    const said = nothing === null ? [] : [{ what: `${find.path ?? find.name ?? find.id}: ${nothing}`, at, length }];
    if (!reader.mayBe(head)) return { records, troubles: said };
    let number = 0;
    const lack = (what: string) => lacking.set(what, (lacking.get(what) ?? 0) + 1);
    for (const { values, columns, at: place, whole } of reader.read(await content.read(0, content.size), lack))
      records.push({
        id: `${find.id}.${number++}`,
        kind: reader.kind,
        state: find.state,
        condition: whole ? "whole" : "damaged",
        database: find.id,
        table: null,
        rowid: null,
        columns,
        values,
        evidence: [{ pass: "databases", what: find.state === "erased" ? "an erased file" : "live", page: null, file: "main", at: place }],
      });
    if (records.length === 0 && lacking.size === 0) return { records, troubles: said };
  } catch (cause) {
    if (!(cause instanceof UnreadableError) || cause.forGood) throw cause;
    return { records, troubles: [{ what: `${find.name} cannot be read`, at: cause.offset, length: cause.length }] };
  }
  const name = find.path ?? find.name ?? find.id;
  const troubles = Array.from(lacking, ([what, times]) => ({ what: `${name}: ${what}${times > 1 ? `, ${times} times` : ""}`, at, length }));
  return { records, troubles };
}

/** Rows of stray pages, by the tables of all databases of the source and those that are known from elsewhere. */
async function strayRecords(
  strays: readonly Find[],
  databases: readonly DatabaseSet[],
  source: PatientSource,
  signal: AbortSignal,
): Promise<FoundRecord[]> {
  const tables: Table[] = [];
  for (const set of databases) {
    const files = tables.length < MAX_TABLES ? await DatabaseFiles.open(sourcesOf(set, source)) : null;
    if (!files) continue;
    const schema = await readSchema(files, new PageLedger(files.mainPages), []);
    for (const table of [...schema.tables.map((one) => one.table), ...schema.former])
      if (!tables.some((one) => one.name === table.name && one.stored.length === table.stored.length)) tables.push(table);
  }
  const rows = new StrayRows([...tables, ...KNOWN_TABLES.filter(({ name }) => !tables.some((one) => one.name === name))]);
  for (const find of strays) for await (const page of pagesOf(find, source)) rows.learn(page);
  rows.settle();
  for (const find of strays) for await (const page of pagesOf(find, source)) rows.gather(page);
  const records: FoundRecord[] = [];
  for (const find of strays) {
    signal.throwIfAborted();
    for await (const page of pagesOf(find, source))
      for (const row of rows.rowsOf(page)) if (records.length < MAX_STRAY_ROWS) records.push(recordOf(row, null));
  }
  return records;
}

async function* pagesOf({ extents }: Find, source: PatientSource): AsyncGenerator<StrayPage> {
  for (const { offset, length } of extents) {
    const bytes = await source.read(offset, length);
    for (let at = 0; at < length; ) {
      const size = strayPageAt(bytes, at);
      if (size === 0) break;
      yield { at: offset + at, bytes: bytes.subarray(at, at + size) };
      at += size;
    }
  }
}

/** Which column a row's own row id stands in: unknown here, so each integer key by its usual names. */
const KEYS = ["_id", "id"];
const keysOf = (record: FoundRecord): string[] => [
  contentOf(record, null),
  ...KEYS.filter((key) => key in record.columns).map((key) => contentOf(record, key)),
];

/** Rows of stray pages, less those that a database tells of: what stray pages say of them is nothing new. */
class LooseRows {
  readonly #rows: readonly FoundRecord[];
  /** Numbers of the rows that read the same, by how they read. */
  readonly #alike = new Map<string, number[]>();
  /** One bit for each row that a database tells of, and the same as it was handed out last. */
  readonly #bits: Uint8Array;
  #handedOut: Uint8Array | null = null;

  constructor(rows: readonly FoundRecord[], struck: Uint8Array | null) {
    this.#rows = rows;
    this.#bits = new Uint8Array(Math.ceil(rows.length / 8));
    for (const [number, row] of rows.entries())
      for (const key of keysOf(row)) {
        const alike = this.#alike.get(key);
        if (alike) alike.push(number);
        else this.#alike.set(key, [number]);
      }
    if (struck?.length !== this.#bits.length) return;
    this.#bits.set(struck);
    for (let number = 0; number < rows.length; number++) if (struck[number >> 3] & (1 << (number & 7))) this.#forget(number);
  }

  get struck(): Uint8Array {
    this.#handedOut ??= this.#bits.slice();
    return this.#handedOut;
  }

  #forget(number: number): void {
    for (const key of keysOf(this.#rows[number])) this.#alike.delete(key);
  }

  strike(record: FoundRecord): void {
    for (const key of keysOf(record))
      for (const number of this.#alike.get(key) ?? []) {
        this.#forget(number);
        this.#bits[number >> 3] |= 1 << (number & 7);
        this.#handedOut = null;
      }
  }

  left(): FoundRecord[] {
    const left = new Set<FoundRecord>();
    for (const alike of this.#alike.values()) for (const number of alike) left.add(this.#rows[number]);
    return [...left];
  }
}
