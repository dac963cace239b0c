import type { FileName, PageImage } from "../files/database-files.ts";
import type { Encoding, Value } from "../format/record.ts";
import type { Table } from "../format/schema.ts";
import { type Read, readValues, type Values } from "../format/values.ts";
import type { Candidate, CandidatePlace } from "./candidates.ts";

/** What kind of place a row was read from. The last: of no file; a phone was asked. */
export type Place = "live" | "freelist page" | "freeblock" | "unallocated" | "wal" | "journal" | "stray page" | "the phone's own provider";

/** Where a row was read. */
export interface RowEvidence {
  readonly what: Place;
  readonly file: FileName;
  readonly page: number;
  /** Byte offset of its cell in the file. */
  readonly at: number;
  /** It stood in an older image of its page: in which transaction, and in which the page was written next. Larger is newer. Absent: nothing says when. */
  readonly stood?: { readonly from: number; readonly until: number | null };
}

/** How a row once was. */
export interface Version {
  readonly values: Values;
  readonly evidence: RowEvidence;
}

/** One row of a table: there, or erased. */
export interface Row {
  readonly table: Table;
  /** Unclear: there or erased, and nothing says which. */
  readonly state: "present" | "erased" | "unclear";
  /** All tables that it may be of, where they are of one shape and nothing tells which. */
  readonly among?: readonly Table[];
  readonly condition: "whole" | "damaged" | "remnant";
  readonly rowid: number | bigint | null;
  readonly values: Values;
  readonly evidence: readonly RowEvidence[];
  /** Other contents that the same row had, newest first. */
  readonly versions: readonly Version[];
}

/** What rows of one page image have in common: enough to read their values when they are asked for. */
export interface RowPage {
  readonly table: Table;
  readonly image: PageImage;
  readonly bytes: Uint8Array;
  /** Reads the values of the row whose cell begins at `at`. */
  read(at: number): Read;
}

/** A row that a reader of the database sees. There may be millions: its values are read when they are asked for. */
export class LiveRow implements Row {
  readonly rowid: number | bigint | null;
  readonly versions: readonly Version[];
  readonly #page: RowPage;
  readonly #at: number;
  #read: Read | null;

  /** `at`: where its cell begins in the page. `read`: its values, where they were read already. */
  constructor(page: RowPage, at: number, rowid: number | bigint | null, versions: readonly Version[], read: Read | null) {
    this.rowid = rowid;
    this.versions = versions;
    this.#page = page;
    this.#at = at;
    this.#read = read;
  }

  get state(): "present" {
    return "present";
  }

  get table(): Table {
    return this.#page.table;
  }

  #values(): Read {
    this.#read ??= this.#page.read(this.#at);
    return this.#read;
  }

  get values(): Values {
    return this.#values().values;
  }

  get condition(): Row["condition"] {
    return this.#values().complete ? "whole" : "damaged";
  }

  get evidence(): readonly RowEvidence[] {
    const { file, page, at } = this.#page.image;
    return [{ what: "live", file, page, at: at + this.#at }];
  }
}

/** A row that was erased, with nothing that speaks against it: its values are read from its page when they are asked for. */
export class ErasedRow implements Row {
  readonly condition = "whole";
  readonly state: "erased" | "unclear";
  readonly #candidate: Candidate;
  readonly #bytes: Uint8Array;
  readonly #encoding: Encoding;
  #values: Values | null = null;

  /** `bytes`: the page that it lies in. */
  constructor(candidate: Candidate, state: "erased" | "unclear", bytes: Uint8Array, encoding: Encoding) {
    this.state = state;
    this.#candidate = candidate;
    this.#bytes = bytes;
    this.#encoding = encoding;
  }

  get table(): Table {
    return this.#candidate.fit.table;
  }

  get among(): readonly Table[] | undefined {
    return amongOf(this.#candidate, this.#bytes, this.#encoding);
  }

  get rowid(): number | bigint | null {
    return this.#candidate.rowid;
  }

  get values(): Values {
    const { fit, types, body, local, rowid } = this.#candidate;
    this.#values ??= readValues(fit.table, types, this.#bytes, body, local, rowid, this.#encoding).values;
    return this.#values;
  }

  get versions(): readonly Version[] {
    return NO_VERSIONS;
  }

  get evidence(): readonly RowEvidence[] {
    return [evidenceOf(this.#candidate), ...this.#candidate.copies.map(evidenceOf)];
  }
}

/**
 * What a table's rows must look like at least, as a part of how much the best one's do, for a row to be perhaps of it. A table's rows of today
 * may be unlike those that it once had: little is ruled out.
 */
const NEARLY = 0.6;

/** The tables that a candidate may be of, where only its look tells: those whose rows look as much like it as the best one's. Undefined: one. */
export function amongOf(
  { unsure, fit, types, body, local }: Candidate,
  bytes: Uint8Array,
  encoding: Encoding,
): readonly Table[] | undefined {
  if (!unsure || fit.alike.length < 2) return undefined;
  const scores = fit.alike.map((one) => one.scoreValues(types, bytes, body, local, encoding));
  const best = Math.max(...scores);
  const some = fit.alike.filter((one, index) => one === fit || !one.learned || scores[index] >= best * NEARLY);
  return some.length > 1 ? some.map(({ table }) => table) : undefined;
}

export const NO_VERSIONS: readonly Version[] = [];

/** The place of a row that a reader of the database does not see. */
export function evidenceOf({ image, start, how, unallocated }: CandidatePlace): RowEvidence {
  const stood = how === "cell" && !unallocated && !image.current && { stood: { from: image.commit, until: image.until } };
  const place = { file: image.file, page: image.page, at: image.at + start, ...stood };
  if (image.file !== "main" && !image.current) return { what: image.file, ...place };
  if (!image.current) return { what: "stray page", ...place };
  return { what: how === "cell" ? "freelist page" : unallocated ? "unallocated" : "freeblock", ...place };
}

/** The values of a row by column name, what is not known left out. */
export const byName = (table: Table, values: Values): Record<string, Value> =>
  Object.fromEntries(table.columns.flatMap(({ name }, index) => (values[index] === undefined ? [] : [[name, values[index] as Value]])));
