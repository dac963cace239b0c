import type { Contents } from "../archives/stream.ts";
import type { PatientSource } from "../bytes/patient-source.ts";
import type { Find } from "../finds/find.ts";
import type { FoundRecord, Stored } from "../finds/record.ts";
import { DatabaseFiles } from "../sqlite/files/database-files.ts";
import { PageLedger } from "../sqlite/files/page-ledger.ts";
import type { Table } from "../sqlite/format/schema.ts";
import type { Row } from "../sqlite/rows/row.ts";
import { type StrayPage, StrayRows, strayPageAt } from "../sqlite/stray.ts";
import { readSchema } from "../sqlite/survey/read-schema.ts";
import { KNOWN_TABLES } from "../sqlite/tables/known-tables.ts";
import { type DatabaseSet, sourcesOf } from "./database-finds.ts";
import { recordOf } from "./row-records.ts";

/** A row of a stray page, and its record. */
export interface StrayRecord {
  readonly record: FoundRecord;
  readonly row: Row;
}

/** Tables that stray pages are held against. */
const MAX_TABLES = 500;
/** Rows of stray pages that are kept until all databases were read. */
const MAX_STRAY_ROWS = 500_000;

/** Rows of stray pages, by the tables of all databases of the source and those that are known from elsewhere. */
export async function strayRecords(
  strays: readonly Find[],
  databases: readonly DatabaseSet[],
  contents: Contents,
  source: PatientSource,
  signal: AbortSignal,
): Promise<StrayRecord[]> {
  const tables: Table[] = [];
  for (const set of databases) {
    const sources = tables.length < MAX_TABLES ? sourcesOf(set, contents) : null;
    const files = sources && (await DatabaseFiles.open(sources));
    if (!files) continue;
    const schema = await readSchema(files, new PageLedger(files.mainPages), []);
    for (const table of [...schema.tables.map((one) => one.table), ...schema.former])
      if (!tables.some((one) => one.name === table.name && one.stored.length === table.stored.length)) tables.push(table);
  }
  const rows = new StrayRows([...tables, ...KNOWN_TABLES.filter(({ name }) => !tables.some((one) => one.name === name))]);
  for (const find of strays) for await (const page of pagesOf(find, source)) rows.learn(page);
  rows.settle();
  for (const find of strays) for await (const page of pagesOf(find, source)) rows.gather(page);
  const records: StrayRecord[] = [];
  for (const find of strays) {
    signal.throwIfAborted();
    for await (const page of pagesOf(find, source))
      for (const row of rows.rowsOf(page)) if (records.length < MAX_STRAY_ROWS) records.push({ record: recordOf(row, null), row });
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

const written = (value: Stored): string =>
  value instanceof Uint8Array ? `b${value.length}:${value.slice(0, 64).join()}` : `${typeof value}:${value}`;
/** What a row is, wherever it lies: its table and values; its row id only where that is not lost. */
const contentOf = ({ table, columns }: FoundRecord, without: string | null): string =>
  `${table}|${Object.entries(columns)
    .filter(([name, value]) => value !== null && name !== without)
    .map(([name, value]) => `${name}=${written(value)}`)
    .join("|")}`;

/** Which column a row's own row id stands in: unknown here, so each integer key by its usual names. */
const KEYS = ["_id", "id"];
const keysOf = (record: FoundRecord): string[] => [
  contentOf(record, null),
  ...KEYS.filter((key) => key in record.columns).map((key) => contentOf(record, key)),
];

/** Rows of stray pages, less those that a database tells of: what stray pages say of them is nothing new. */
export class LooseRows {
  readonly #rows: readonly FoundRecord[];
  readonly #stray: readonly StrayRecord[];
  /** Numbers of the rows that read the same, by how they read. */
  readonly #alike = new Map<string, number[]>();
  /** One bit for each row that a database tells of, and the same as it was handed out last. */
  readonly #bits: Uint8Array;
  #handedOut: Uint8Array | null = null;

  constructor(stray: readonly StrayRecord[], struck: Uint8Array | null) {
    this.#stray = stray;
    const rows = stray.map(({ record }) => record);
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

  left(): StrayRecord[] {
    const left = new Set<StrayRecord>();
    for (const alike of this.#alike.values()) for (const number of alike) left.add(this.#stray[number]);
    return [...left];
  }
}
