import { type Gap, type PageForm, u32 } from "../format/page.ts";
import { type Encoding, serialBytes } from "../format/record.ts";
import { textsRead } from "../format/values.ts";
import { MOST_BYTES, type Shapes, type TableFit } from "../tables/fit.ts";
import type { FoundRow, How } from "./found-row.ts";

/** What readings of rows in free space have in common: how they are weighed, and when they are believed. */

/** Least scores of types and of values, by how much else speaks for a row. */
export const LEAST = { exact: 0.5, headLost: 0.6, cut: 0.75 };

export const LEAST_VALUES = { exact: 0.55, headLost: 0.7, cut: 0.8 };

/** One value in so many may be unlike all others of its column; where the head is there, one in any case. */
const STRANGE_ONE_IN = 6;

/** How much a row must tell (see `told`) before it is no chance: where the table's habits are known, and where not. */
const LEAST_TOLD = { learned: 6, unknown: 24 };

/** What a row of another table than the page's own is worth: pages change hands, but seldom. */
const STRANGER = 0.7;

export const MAX_PAYLOAD = MOST_BYTES;

/** A row of fewer bytes is told by chance. */
export const SMALLEST = 5;

/**
 * A row as it was read at some place, and what speaks for that reading. A class, so that all are put together the same way: there may be one
 * for every byte of free space.
 */
export class Weighed implements FoundRow {
  readonly fit: TableFit;
  readonly how: How;
  readonly start: number;
  readonly end: number;
  readonly rowid: number | bigint | null;
  readonly types: readonly number[];
  readonly body: number;
  readonly local: number;
  readonly bodyBytes: number;
  readonly overflow: number;
  doubtful: boolean;
  readonly unallocated: boolean;
  unsure = false;
  /** Bytes that it explains, less for all that is in doubt. */
  readonly weight: number;
  /** How many values it has is lost, and it does not fill its free block: it is believed where the next row begins at its end. */
  readonly loose: boolean;

  constructor(
    { fit, start, end, body, local, bodyBytes, overflow, unallocated }: Lying,
    how: How,
    rowid: number | bigint | null,
    weight: number,
    doubtful: boolean,
    loose: boolean,
  ) {
    this.fit = fit;
    this.how = how;
    this.start = start;
    this.end = end;
    this.rowid = rowid;
    this.types = types.slice();
    this.body = body;
    this.local = local;
    this.bodyBytes = bodyBytes;
    this.overflow = overflow;
    this.doubtful = doubtful;
    this.unallocated = unallocated;
    this.weight = weight;
    this.loose = loose;
  }
}

/** Where a reading that is not believed yet lies. Its types are in `types`. */
export type Lying = Pick<FoundRow, "fit" | "start" | "end" | "body" | "local" | "bodyBytes" | "overflow" | "unallocated">;

/** What rows are looked for in a page. */
export interface Looking {
  readonly shapes: Shapes;
  readonly form: PageForm;
  readonly encoding: Encoding;
  /** The table that the page belongs or belonged to. */
  readonly owner: TableFit | null;
}

/** Serial types of the reading that is looked at now. One list for all: this is done for every byte of free space. */
export const types: number[] = [];

/** What a row's place in the page and its types make. @returns null where not even its first value is there */
export function lyingAt(
  bytes: Uint8Array,
  fit: TableFit,
  start: number,
  end: number,
  body: number,
  allBytes: number,
  localBody: number,
  spills: boolean,
  { unallocated }: Gap,
): Lying | null {
  const local = Math.min(localBody, end - body);
  if (local < 0) return null;
  const pointer = body + localBody;
  const overflow = spills && pointer + 4 <= end ? u32(bytes, pointer) : 0;
  return { fit, start, end, body, local, bodyBytes: allBytes, overflow, unallocated };
}

/**
 * Do texts read as texts, as far as they lie here, do values look like those of their columns, and is there enough of them?
 * @returns how much they look so, 0 to 1; 0 where it is not enough
 */
export function likeness(bytes: Uint8Array, { fit, body, local }: Lying, encoding: Encoding, least: number, strange: number): number {
  const own = types;
  if (told(bytes, body, local) < (fit.learned ? LEAST_TOLD.learned : LEAST_TOLD.unknown) || !textsRead(own, bytes, body, local, encoding))
    return 0;
  const score = fit.scoreValues(own, bytes, body, local, encoding, Math.max(strange, Math.floor(own.length / STRANGE_ONE_IN)));
  return score >= least ? score : 0;
}

export const nearness = (fit: TableFit, { owner }: Looking): number => (owner && fit !== owner ? STRANGER : 1);

/** How much the values of a row say, roughly in bytes that would have to agree by chance. Zeros say nothing. */
function told(bytes: Uint8Array, body: number, local: number): number {
  const own = types;
  // That so many types fit so many columns says something too.
  let sum = Math.min(1.5, own.length * 0.1);
  let at = 0;
  for (const type of own) {
    const length = serialBytes(type);
    if (at + length > local) break;
    if (type === 8 || type === 9) sum += 0.5;
    else if (length > 0) {
      let set = 0;
      for (let index = 0; index < Math.min(length, 12); index++) if (bytes[body + at + index] !== 0) set++;
      sum += type < 12 ? 0.7 + set * 0.7 : type & 1 ? set : set * 0.3;
    }
    at += length;
  }
  return sum;
}
