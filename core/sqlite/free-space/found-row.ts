import { varintSize } from "../format/varint.ts";
import type { TableFit } from "../tables/fit.ts";

/** How a row was met in a page. */
export type How = "cell" | "leftover" | "head lost" | "cut";

/** A row as it lies in one image of a page. Offsets count from the first byte of the page. */
export interface FoundRow {
  readonly fit: TableFit;
  readonly how: How;
  /** Where its cell begins and what of the page it takes up, up to here (exclusive). */
  readonly start: number;
  readonly end: number;
  /** Null: those bytes are lost, or the table has none. */
  readonly rowid: number | bigint | null;
  /** Serial types of its values, worked out where the header is lost. */
  readonly types: readonly number[];
  /** Where its values begin. */
  readonly body: number;
  /** Bytes of the values that lie here, as many as are left. */
  readonly local: number;
  /** Bytes of all values. */
  readonly bodyBytes: number;
  /** First overflow page, or 0. */
  readonly overflow: number;
  /** Values before this place have a type that was worked out from sizes, and other types were possible. */
  readonly doubtful: boolean;
  /** In free space between cell pointers and cells; else among the cells. */
  readonly unallocated: boolean;
  /** Only its look tells of which of several tables of one shape it is: its page was or may have been another's. */
  readonly unsure: boolean;
}

/** Bytes of the beginning and of the end of a row's values that tell it apart from others. */
const HEAD = 64;
const TAIL = 24;

/** A number of a record's types, as the record writes them: from behind the size of its header to its values. */
export const typesPrint = (bytes: Uint8Array, header: number, body: number): number => mixed(bytes, header, body, SEED);

/** The same of a row whose header is not there any more, or not whole. */
export const typesPrintOf = (types: readonly number[]): number => typesPrint(header.bytes, 0, header.write(types));

const SEED = 0x811c_9dc5;

function mixed(bytes: Uint8Array, from: number, to: number, seed: number): number {
  let a = seed;
  for (let at = from; at < to; at++) a = Math.imul(a ^ bytes[at], 0x0100_0193);
  return a;
}

/**
 * A number that tells rows apart: of their types, and of the first and last bytes of what of their values lies in the page. The
 * same row has the same one wherever it lies in pages of one size, with its head or without.
 */
export function fingerprint(seed: number, bytes: Uint8Array, body: number, local: number): number {
  const end = Math.min(body + local, bytes.length);
  const first = Math.min(end, body + HEAD);
  const a = mixed(bytes, Math.max(first, end - TAIL), end, mixed(bytes, body, first, seed) ^ local);
  // A second sum of the same bytes, so that millions of rows are told apart.
  let b = local;
  for (let at = body; at + 2 <= first; at += 2) b = Math.imul(b + bytes[at] + (bytes[at + 1] << 8), 0x85eb_ca6b) ^ (b >>> 13);
  return ((a ^ (a >>> 15)) >>> 0) * 2 ** 21 + ((b ^ seed) & 0x1f_ffff);
}

/** Types as records write them, without the size of the header before them: into the same bytes each time. */
class HeaderWriter {
  bytes = new Uint8Array(1024);

  /** @returns how many bytes they take */
  write(types: readonly number[]): number {
    if (this.bytes.length < types.length * MOST_BYTES) this.bytes = new Uint8Array(types.length * MOST_BYTES * 2);
    let at = 0;
    for (let index = 0; index < types.length; index++) {
      const type = types[index];
      if (type >= 0x80)
        for (let bits = 7 * (varintSize(type) - 1); bits > 0; bits -= 7) this.bytes[at++] = 0x80 | (Math.floor(type / 2 ** bits) & 0x7f);
      this.bytes[at++] = type & 0x7f;
    }
    return at;
  }
}
/** Bytes of the longest type that is believed. */
const MOST_BYTES = 9;
export const header = new HeaderWriter();
