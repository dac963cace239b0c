import type { Extent } from "../core/bytes/extents.ts";
import type { Trouble } from "../core/bytes/trouble.ts";
import type { VolumeInfo } from "../core/filesystems/volume.ts";
import type { Find } from "../core/finds/find.ts";
import type { FoundRecord } from "../core/finds/record.ts";
import type { Proposal } from "../core/stores/read-stores.ts";
import type { Scanned } from "./run-scan.ts";

/** The JSON lines that `scan` prints. */
const pairs = (extents: readonly Extent[]) => extents.map(({ offset, length }) => [offset, length]);
const iso = (time: number | null) => (time === null ? null : new Date(time).toISOString());

export const findLine = (find: Find) => ({
  type: "find",
  id: find.id,
  kind: find.kind,
  format: find.format,
  state: find.state,
  condition: find.condition,
  name: find.name,
  path: find.path,
  size: find.size,
  modified: iso(find.modified),
  taken: iso(find.taken),
  sha256: find.sha256,
  extents: pairs(find.extents),
  volume: find.volume,
  inside: find.inside,
  evidence: [...find.evidence, { pass: "reconcile", what: find.because, at: find.extents[0]?.offset ?? 0 }],
});

export const volumeLine = ({ index, filesystem, start, length, label, encrypted, used, free }: VolumeInfo) => ({
  type: "volume",
  index,
  filesystem,
  start,
  length,
  label,
  encrypted,
  used,
  free,
});

/** A row or an entry. The database is told by its path where it has one. */
export function recordLine(record: FoundRecord, find: Find | undefined) {
  const database = find?.path ?? record.database;
  if (record.store === undefined) return { type: "record", ...record, database };
  // What people mean by rows is of no table: its rows are.
  const { table: _table, rowid: _rowid, columns: _columns, ...people } = record;
  return { type: "record", ...people, database };
}

/** A database that looks like a messenger, but not surely enough to be read. */
export const proposalLine = ({ database, table, why, sureness }: Proposal, find: Find | undefined) => ({
  type: "proposal",
  database: find?.path ?? database,
  table,
  why: why.join("; "),
  sureness,
});

/** Marks numbers that JSON can write and a JavaScript number cannot hold; new for each run, so that no content can forge it. */
const EXACT = `exact-${Math.random().toString(36).slice(2)}:`;
const EXACT_NUMBER = new RegExp(`"${EXACT}(-?\\d+(?:e\\d+)?)"`, "g");

/**
 * One line of JSON: bytes as hexadecimal digits, large integers to their last digit. Infinity has no word of its own in RFC 8259: it is
 * written as a number beyond all that a double can hold, which every reader takes as infinite, with its sign.
 */
export const jsonLine = (line: object): string =>
  JSON.stringify(line, (_, value: unknown) => {
    if (value instanceof Uint8Array) return { blob: Buffer.from(value).toString("hex") };
    if (value === Number.POSITIVE_INFINITY || value === Number.NEGATIVE_INFINITY) return `${EXACT}${value < 0 ? "-" : ""}9e999`;
    return typeof value === "bigint" ? `${EXACT}${value}` : value;
  }).replace(EXACT_NUMBER, "$1");

export const troubleLine = (trouble: Trouble) => ({ type: "trouble", ...trouble });

export function summaryLine(scanned: Scanned) {
  const finds: Partial<Record<Find["kind"], Partial<Record<Find["state"], number>>>> = {};
  for (const { kind, state } of scanned.finds.values()) {
    const states = (finds[kind] ??= {});
    states[state] = (states[state] ?? 0) + 1;
  }
  return {
    type: "summary",
    seconds: Math.round(scanned.seconds * 1000) / 1000,
    bytes: scanned.bytes,
    bytesRead: scanned.bytesRead,
    unreadable: pairs(scanned.unreadable),
    finds,
  };
}
