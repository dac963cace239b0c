import type { TableFit } from "./fit.ts";

/** How a row was met in a page. */
export type How = "cell" | "leftover" | "head lost" | "cut" | "text";

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
}

/**
 * A number that tells rows apart: of the types and of what of the values lies in the page. The same row has the same one
 * wherever it lies in pages of one size, with its head or without.
 */
export function fingerprint(bytes: Uint8Array, types: readonly number[], body: number, local: number): number {
  let a = 0x811c_9dc5;
  let b = 0x1b87_3593;
  for (let index = 0; index < types.length; index++) {
    a = Math.imul(a ^ types[index], 0x0100_0193);
    b = Math.imul(b + types[index] + 1, 0x85eb_ca6b);
    b ^= b >>> 13;
  }
  const end = Math.min(body + local, bytes.length);
  let at = body;
  // Four bytes at a time: this is done for every live row.
  for (; at + 4 <= end; at += 4) {
    const word = bytes[at] | (bytes[at + 1] << 8) | (bytes[at + 2] << 16) | (bytes[at + 3] << 24);
    a = Math.imul(a ^ word, 0x0100_0193);
    a ^= a >>> 15;
    b = Math.imul(b + word, 0x85eb_ca6b);
    b ^= b >>> 13;
  }
  for (; at < end; at++) {
    a = Math.imul(a ^ bytes[at], 0x0100_0193);
    b = Math.imul(b + bytes[at], 0xc2b2_ae35);
  }
  a ^= a >>> 16;
  return (a >>> 0) * 2 ** 21 + ((b >>> 0) & 0x1f_ffff);
}
