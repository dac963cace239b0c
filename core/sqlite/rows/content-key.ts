import { serialBytes } from "../format/record.ts";
import { varintLength, varintNumber } from "../format/varint.ts";
import { isMoment } from "./strong-print.ts";

/** Bytes at the beginning of the values of a row without a moment. */
const FIRST = 8;

/**
 * A number of what is cheaply told of a row's content: its first moment, else its first bytes. Rows of the same content have the same one,
 * and so have rows of the same strong print. `types` from `header` to `typesEnd`, as a record writes them.
 */
export function contentKey(bytes: Uint8Array, body: number, local: number, types: Uint8Array, header: number, typesEnd: number): number {
  const end = Math.min(body + local, bytes.length);
  let at = body;
  for (let place = header; place < typesEnd && at < end; ) {
    let type = types[place];
    let length = 1;
    if (type >= 0x80) {
      length = varintLength(types, place, typesEnd);
      if (length === 0) break;
      type = varintNumber(types, place, length);
    }
    place += length;
    const size = serialBytes(type);
    if (size < 0) break;
    if (isMoment(type) && at + size <= end) return sumOf(bytes, at, at + size, type);
    at += size;
  }
  return sumOf(bytes, body, Math.min(end, body + FIRST), local);
}

function sumOf(bytes: Uint8Array, from: number, to: number, seed: number): number {
  let sum = seed;
  for (let at = from; at < to; at++) sum = Math.imul(sum ^ bytes[at], 0x0100_0193);
  const mixed = Math.imul(sum ^ (sum >>> 15), 0x2c1b_3c6d);
  return mixed ^ (mixed >>> 13);
}
