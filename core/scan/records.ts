import { Contents, contentBytes } from "../archives/stream.ts";
import { totalLength } from "../bytes/extents.ts";
import type { PatientSource } from "../bytes/patient-source.ts";
import { UnreadableError } from "../bytes/source.ts";
import type { Trouble } from "../bytes/trouble.ts";
import { EXPORT_HEAD, exportReader, MAX_EXPORT } from "../exports/read-export.ts";
import type { Find } from "../finds/find.ts";
import type { FoundRecord } from "../finds/record.ts";
import { DatabaseFiles } from "../sqlite/files/database-files.ts";
import { recoverRows } from "../sqlite/recover.ts";
import { KNOWN_TABLES } from "../sqlite/tables/known-tables.ts";
import { gatheredFromAnswers } from "../stores/asked/provider-tables.ts";
import { Gathered, MOST_GATHERED } from "../stores/gathered.ts";
import { type Known, type Proposal, readProviders, readStores } from "../stores/read-stores.ts";
import { type DatabaseFinds, type DatabaseSet, sourcesOf } from "./database-finds.ts";
import type { PassBatch } from "./events.ts";
import { LooseRows, strayRecords } from "./loose-rows.ts";
import { type FoundRows, recordOf } from "./row-records.ts";

/** Records handed on at once. */
const BATCH = 500;

/** Where the databases pass goes on: databases and exports that are done, records told of the next one, and which rows of stray pages were struck off. */
export interface RecordsBegun {
  readonly at: number;
  readonly told: number;
  readonly struck: Uint8Array | null;
}
export const NOTHING_READ: RecordsBegun = { at: 0, told: 0, struck: null };

/**
 * The databases pass: every database that was found, present, binned or erased, with the log and journal beside it; exports of
 * people's data; and rows of pages that lie about by themselves, less those that a database tells of. `known`: how messengers are read; null: rows
 * alone are asked for, not what people mean by them.
 */
export async function* readRecords(
  finds: DatabaseFinds,
  source: PatientSource,
  signal: AbortSignal,
  known: Known | null,
  from = NOTHING_READ,
): AsyncGenerator<PassBatch> {
  const databases = finds.databases();
  const exports = finds.exports();
  const asked = finds.asked();
  const strays = finds.strays();
  const contents = new Contents(source);
  const answers = asked.reduce((sum, find) => sum + contentBytes(find), 0);
  const sizes = [...[...databases.map(({ find }) => find), ...exports].map(contentBytes), answers];
  const total = sizes.reduce((sum, size) => sum + size, 0) + strays.reduce((sum, { extents }) => sum + totalLength(extents), 0);
  const loose = strays.length > 0 ? new LooseRows(await strayRecords(strays, databases, contents, source, signal), from.struck) : null;
  /** One after the other: databases, exports, what a phone's providers told, and last what stray pages alone tell. */
  const units: (() => AsyncIterable<Told & { part: number }>)[] = [
    ...databases.map((set) => () => readDatabase(set, contents, signal, known)),
    ...exports.map((find) => () => inBatches(readExport(find, contents))),
    () => inBatches(readAsked(asked, contents)),
    () => inBatches(Promise.resolve(leftOver(loose, known))),
  ];
  /** Bytes of the units that are done. */
  let done = 0;
  const batch = (at: number, told: number, within: number, { records, rows, troubles, proposals }: Told): PassBatch => ({
    finds: [],
    patches: [],
    troubles,
    records,
    rows,
    proposals,
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
    for await (const { records, rows, troubles, proposals, part } of read()) {
      if (loose && rows) for (const row of rows.rows) loose.strike(recordOf(row, rows.find));
      const skipped = Math.max(0, before - told);
      told += records.length + (rows?.rows.length ?? 0);
      if (told < before && troubles.length + proposals.length === 0) continue;
      const fresh = { records: records.slice(skipped), rows: rows && { ...rows, rows: rows.rows.slice(skipped) }, troubles, proposals };
      yield batch(at, Math.max(told, before), part * size, fresh);
    }
    done += size;
    yield batch(at + 1, 0, 0, NOTHING_TOLD);
  }
}

/** A unit tells rows or records, never both at once. */
interface Told {
  readonly records: readonly FoundRecord[];
  readonly rows: FoundRows | null;
  readonly troubles: readonly Trouble[];
  readonly proposals: readonly Proposal[];
}
const NOTHING_TOLD: Told = { records: [], rows: null, troubles: [], proposals: [] };

async function* inBatches(told: Promise<Told>): AsyncGenerator<Told & { part: number }> {
  const { records, troubles, proposals } = await told;
  if (proposals.length > 0) yield { ...NOTHING_TOLD, proposals, part: 0 };
  if (troubles.length > 0) yield { ...NOTHING_TOLD, troubles, part: 0 };
  for (let at = 0; at < records.length; at += BATCH)
    yield { ...NOTHING_TOLD, records: records.slice(at, at + BATCH), part: Math.min(1, (at + BATCH) / records.length) };
}

/** Rows of one database, with how much of it was read, 0 to 1. Troubles name it; what it breaks on does not end the pass. */
async function* readDatabase(
  set: DatabaseSet,
  contents: Contents,
  signal: AbortSignal,
  known: Known | null,
): AsyncGenerator<Told & { part: number }> {
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
    const sources = sourcesOf(set, contents);
    const files = sources && (await DatabaseFiles.open(sources));
    if (!files) {
      const why = sources
        ? "nothing in it reads as a database"
        : "it is too large to be read while it lies packed: give it back and drop it by itself";
      yield { ...NOTHING_TOLD, troubles: [named(why)], part: 1 };
      return;
    }
    const gathered = new Gathered(find.id, find.path);
    let fits = known !== null && files.mainPages * files.form.pageSize <= MOST_GATHERED;
    for await (const { rows, troubles, done, total } of recoverRows(files, KNOWN_TABLES, signal)) {
      for (const { what } of troubles) met.set(what, (met.get(what) ?? 0) + 1);
      fits = fits && gathered.take(rows);
      yield { ...NOTHING_TOLD, rows: { find, rows }, part: total === 0 ? 1 : done / total };
    }
    if (known && fits) yield* peopleIn(gathered, known);
    else if (known)
      yield { ...NOTHING_TOLD, troubles: [named("it is too large to be read as messages and people: its tables are there")], part: 1 };
    // The same thing is said once, however many pages it befell.
    yield { ...NOTHING_TOLD, troubles: Array.from(met, ([what, times]) => named(what, times)), part: 1 };
  } catch (cause) {
    if (!(cause instanceof UnreadableError) || cause.forGood) throw cause;
    yield {
      ...NOTHING_TOLD,
      troubles: [named("it cannot be read on: the medium does not answer")],
      part: 1,
    };
  }
}

/** What people mean by the rows of a database. */
function* peopleIn(gathered: Gathered, known: Known): Generator<Told & { part: number }> {
  const { entries, proposal } = readStores(gathered, known);
  if (proposal) yield { ...NOTHING_TOLD, proposals: [proposal], part: 1 };
  for (let at = 0; at < entries.length; at += BATCH) yield { ...NOTHING_TOLD, records: entries.slice(at, at + BATCH), part: 1 };
}

/** Rows of stray pages that no database tells of, and what people mean by them. */
function leftOver(loose: LooseRows | null, known: Known | null): Told {
  const left = loose?.left() ?? [];
  if (!known) return { ...NOTHING_TOLD, records: left.map(({ record }) => record) };
  const gathered = new Gathered(null, null);
  gathered.take(left.map(({ row }) => row));
  return { ...NOTHING_TOLD, records: [...left.map(({ record }) => record), ...readStores(gathered, known).entries] };
}

/** What the system's own providers told: all answers of a copy together, since one names what another numbers. */
async function readAsked(asked: readonly Find[], contents: Contents): Promise<Told> {
  if (asked.length === 0) return NOTHING_TOLD;
  const troubles: Trouble[] = [];
  const [{ extents }] = asked;
  const broken = (name: string, what: string) => troubles.push({ what: `${name}: ${what}`, at: extents[0]?.offset ?? 0, length: 0 });
  try {
    const answers = asked.map((find) => ({ name: find.name ?? find.id, source: contents.of(find) }));
    return { ...NOTHING_TOLD, records: readProviders(await gatheredFromAnswers(answers, broken)), troubles };
  } catch (cause) {
    if (!(cause instanceof UnreadableError) || cause.forGood) throw cause;
    const { offset: at, length } = cause;
    return { ...NOTHING_TOLD, troubles: [{ what: "what the phone's own providers told cannot be read", at, length }] };
  }
}

/** Entries of an address book, a calendar or a message export. */
async function readExport(find: Find, contents: Contents): Promise<Told> {
  const reader = exportReader(find.name, find.format);
  const at = find.extents[0]?.offset ?? 0;
  const length = contentBytes(find);
  if (!reader) return NOTHING_TOLD;
  if (length > MAX_EXPORT) return { ...NOTHING_TOLD, troubles: [{ what: `${find.name} is too large to be read as entries`, at, length }] };
  const content = contents.of(find);
  const records: FoundRecord[] = [];
  const lacking = new Map<string, number>();
  try {
    const head = await content.read(0, Math.min(EXPORT_HEAD, content.size));
    const nothing = reader.nothing(head);
    const said = nothing === null ? [] : [{ what: `${find.path ?? find.name ?? find.id}: ${nothing}`, at, length }];
    if (!reader.mayBe(head)) return { ...NOTHING_TOLD, records, troubles: said };
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
    if (records.length === 0 && lacking.size === 0) return { ...NOTHING_TOLD, records, troubles: said };
  } catch (cause) {
    if (!(cause instanceof UnreadableError) || cause.forGood) throw cause;
    return { ...NOTHING_TOLD, records, troubles: [{ what: `${find.name} cannot be read`, at: cause.offset, length: cause.length }] };
  }
  const name = find.path ?? find.name ?? find.id;
  const troubles = Array.from(lacking, ([what, times]) => ({ what: `${name}: ${what}${times > 1 ? `, ${times} times` : ""}`, at, length }));
  return { ...NOTHING_TOLD, records, troubles };
}
