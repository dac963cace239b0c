import { serialBytes } from "../format/record.ts";
import { varintLength, varintNumber } from "../format/varint.ts";

/** Bytes of each value that count. */
const COUNTED = 48;
/** A text of fewer bytes is shared by many rows. */
const LEAST_TEXT = 4;
/** Serial types of integers of six and eight bytes, and of reals: times and the like, which two rows hardly share. */
export const isMoment = (type: number): boolean => type === 5 || type === 6 || type === 7;

/**
 * A number of those values of a row that two rows hardly share: a moment and its texts. Rows of one table that have the same one
 * are one row at different times, though small values of it changed. `types` from `header` to `typesEnd`: as a record writes them.
 * @returns 0 where it holds no moment, or nothing beside it
 */
export function strongPrint(
  bytes: Uint8Array,
  header: number,
  body: number,
  local: number,
  types: Uint8Array = bytes,
  typesEnd = body,
): number {
  let a = 0x811c_9dc5;
  let b = 0x2545_f491;
  let moments = 0;
  let texts = 0;
  let at = body;
  const end = Math.min(body + local, bytes.length);
  for (let place = header, number = 0; place < typesEnd && at < end; number++) {
    let type = types[place];
    let length = 1;
    if (type >= 0x80) {
      length = varintLength(types, place, typesEnd);
      if (length === 0) return 0;
      type = varintNumber(types, place, length);
    }
    place += length;
    const size = type < 12 ? serialBytes(type) : (type - 12 - (type & 1)) / 2;
    const tells = isMoment(type) || (type >= 12 && size >= LEAST_TEXT);
    if (tells) {
      if (type < 12) moments++;
      else texts++;
      a = Math.imul(a ^ number ^ type, 0x0100_0193);
      const stop = Math.min(at + size, end, at + COUNTED);
      for (let byte = at; byte < stop; byte++) {
        a = Math.imul(a ^ bytes[byte], 0x0100_0193);
        b = Math.imul(b + bytes[byte], 0x85eb_ca6b) ^ (b >>> 13);
      }
    }
    at += size;
  }
  return moments > 0 && moments + texts > 1 ? ((a ^ (a >>> 15)) >>> 0) * 2 ** 21 + (b & 0x1f_ffff) + 1 : 0;
}
