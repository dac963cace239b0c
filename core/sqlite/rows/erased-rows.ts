import type { DatabaseFiles } from "../files/database-files.ts";
import { bodyBytes } from "../format/record.ts";
import { isSameRow, joined, readValues, textsRead, type Values } from "../format/values.ts";
import { typesPrintOf } from "../free-space/found-row.ts";
import type { Overflow } from "../survey/overflow.ts";
import type { TableFit } from "../tables/fit.ts";
import type { Candidate, CandidateBook } from "./candidates.ts";
import { amongOf, ErasedRow, evidenceOf, type Row, type Version } from "./row.ts";

/** A candidate whose values were read. */
export interface Decoded {
  readonly values: Values;
  readonly complete: boolean;
  readonly bytes: Uint8Array;
}

/** What the erased rows of a database are judged by. */
export interface Judging {
  readonly db: DatabaseFiles;
  readonly overflow: Overflow;
  readonly book: CandidateBook;
  /** Does an index still name this row id, although the row's own page is lost? */
  isIndexed(fit: TableFit, rowid: number | bigint | null): boolean;
  /** May the page that would tell whether the row is there be a missing one? */
  mayBeLost(candidate: Candidate): boolean;
}

/** Reads the values of a candidate, over its overflow pages too. @returns null where its page cannot be read */
export async function decode(candidate: Candidate, { db, overflow }: Pick<Judging, "db" | "overflow">): Promise<Decoded | null> {
  const { image, fit, rowid, types, body, local } = candidate;
  const bytes = await db.readAgain(image);
  if (!bytes) return null;
  const all = bodyBytes(types);
  if (candidate.how === "cut" || local >= all) return { ...readValues(fit.table, types, bytes, body, local, rowid, db.encoding), bytes };
  const own = bytes.subarray(body, body + local);
  const isRight = (rest: Uint8Array) => textsRead(types, joined(own, rest), 0, all, db.encoding);
  const rest = candidate.overflow > 0 ? await overflow.erased(candidate.overflow, all - local, candidate.age, isRight) : null;
  const whole = rest ? joined(own, rest) : own;
  return { ...readValues(fit.table, types, whole, 0, whole.length, rowid, db.encoding), bytes };
}

/**
 * The row of a candidate that has no rival: one that lies in its page with all its values, whose number nothing else speaks of. Its values are not
 * read before they are asked for. @returns null where more must be known before it is told: then `rowsOfGroup` tells it
 */
export async function aloneRow(candidate: Candidate, judging: Judging): Promise<Row | null> {
  const { db, book } = judging;
  const { image, fit, rowid, types, local } = candidate;
  if (
    candidate.partial ||
    candidate.how === "cut" ||
    isVague(candidate) ||
    local < bodyBytes(types) ||
    book.hasParts ||
    judging.isIndexed(fit, rowid)
  )
    return null;
  const bytes = db.atHand(image) ?? (await db.readAgain(image));
  if (!bytes || book.isLive(candidate.index)) return null;
  return new ErasedRow(candidate, judging.mayBeLost(candidate) ? "unclear" : "erased", bytes, db.encoding);
}

/**
 * A row of a table without row ids, in what a page held before: no row id and no other page bears it out, and what was written there since may have
 * taken its last bytes. It is not vouched for.
 */
const isVague = ({ fit, unallocated }: Candidate): boolean => fit.table.withoutRowid && unallocated;

/** Which of several contents of one row id is told first: a whole one before a part, then the newest. */
const byWorth = (a: Candidate, b: Candidate): number => Number(a.partial) - Number(b.partial) || b.age - a.age;

/** The rows of a group of candidates of one row id: one with its versions, unless the number was given to another row. */
export async function rowsOfGroup(group: readonly Candidate[], judging: Judging): Promise<readonly Row[]> {
  const told: { row: Row; versions: Version[] }[] = [];
  const known = group.find(({ rowid }) => rowid !== null)?.rowid ?? null;
  for (const one of group.length > 1 ? [...group].sort(byWorth) : group) {
    if (judging.book.isLive(one.index)) continue;
    const decoded = await decode(one, judging);
    if (!decoded) continue;
    const { values, complete, bytes } = decoded;
    const { rowidColumn } = one.fit.table;
    if (one.rowid === null && known !== null && rowidColumn >= 0) values[rowidColumn] = known;
    const isWhole = complete && !one.partial && !isVague(one);
    if (isWhole) judging.book.markParts(typesPrintOf(one.types), bytes, one.body, one.local);
    const first = evidenceOf(one);
    const newer = told.find((one) => isSameRow(one.row.values, values));
    if (newer) {
      if (isWhole) newer.versions.push({ values, evidence: first });
      continue;
    }
    const versions: Version[] = [];
    const among = amongOf(one, bytes, judging.db.encoding);
    const isThere = told.length === 0 && judging.isIndexed(one.fit, one.rowid);
    const row: Row = {
      table: one.fit.table,
      // Where its own page is missing nobody can tell whether it was erased.
      state: isThere ? "present" : judging.mayBeLost(one) ? "unclear" : "erased",
      condition: isWhole ? "whole" : "damaged",
      ...(among && { among }),
      rowid: one.rowid ?? known,
      values,
      evidence: [first, ...one.copies.map(evidenceOf)],
      versions,
    };
    told.push({ row, versions });
  }
  return told.map(({ row }) => row);
}
