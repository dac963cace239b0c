import { shortened, varintLength, varintNumber } from "./varint.ts";

/** Records ("Database File Format" §2.1): a header of serial types, then the values in the same order. */

/** What a column holds. Integers that a number cannot hold exactly are bigints. */
export type Value = null | number | bigint | string | Uint8Array;
export type Encoding = "utf-8" | "utf-16le" | "utf-16be";

/** Columns of a table at most (SQLite's own upper limit, "Implementation Limits" §2). */
const MAX_COLUMNS = 32_767;
/** Serial types 10 and 11 are for internal use: no record of a file has them. */
const BYTES = [0, 1, 2, 3, 4, 6, 8, 8, 0, 0, -1, -1];

/** Bytes that a value of this serial type takes; negative for a type that no file has. */
export const serialBytes = (type: number): number => (type < 12 ? BYTES[type] : (type - (type & 1 ? 13 : 12)) / 2);

/** What kind of value a serial type is: one bit each, so that sets of them are numbers. */
export const Class = { null: 1, integer: 2, real: 4, text: 8, blob: 16 } as const;
export const classOf = (type: number): number =>
  type === 0 ? Class.null : type === 7 ? Class.real : type < 12 ? Class.integer : type & 1 ? Class.text : Class.blob;

/**
 * Reads the serial types from `at` up to `end`, where the header must end exactly.
 * @returns false where it does not, where a type is impossible, or where there are more than `most`
 */
export function readTypes(bytes: Uint8Array, at: number, end: number, types: number[], most = MAX_COLUMNS): boolean {
  types.length = 0;
  let place = at;
  while (place < end) {
    let type = bytes[place];
    let length = 1;
    if (type >= 0x80) {
      length = varintLength(bytes, place, end);
      if (length === 0 || length > 6) return false;
      type = varintNumber(bytes, place, length);
    }
    if (type === 10 || type === 11 || types.length === most) return false;
    types.push(type);
    place += length;
  }
  return place === end;
}

/** Bytes of all values of a record. */
export function bodyBytes(types: readonly number[]): number {
  let sum = 0;
  for (let index = 0; index < types.length; index++) sum += serialBytes(types[index]);
  return sum;
}

/** Shorter texts of plain ASCII are put together faster than the decoder is called. */
const SHORT = 32;
const loose = {
  "utf-8": new TextDecoder("utf-8", { ignoreBOM: true }),
  "utf-16le": new TextDecoder("utf-16le", { ignoreBOM: true }),
  "utf-16be": new TextDecoder("utf-16be", { ignoreBOM: true }),
} as const satisfies Record<Encoding, unknown>;

export function decodeText(bytes: Uint8Array, at: number, end: number, encoding: Encoding): string {
  if (encoding === "utf-8" && end - at <= SHORT) {
    let text = "";
    for (let place = at; place < end; place++) {
      if (bytes[place] >= 0x80) return loose[encoding].decode(bytes.subarray(at, end));
      text += String.fromCharCode(bytes[place]);
    }
    return text;
  }
  return loose[encoding].decode(bytes.subarray(at, end));
}

const view = (bytes: Uint8Array, at: number, length: number) => new DataView(bytes.buffer, bytes.byteOffset + at, length);

const low32 = (bytes: Uint8Array, at: number): number =>
  ((bytes[at] << 24) | (bytes[at + 1] << 16) | (bytes[at + 2] << 8) | bytes[at + 3]) >>> 0;

/** The value of a serial type whose bytes begin at `at`. */
export function valueAt(bytes: Uint8Array, at: number, type: number, encoding: Encoding): Value {
  switch (type) {
    case 0:
      return null;
    case 1:
      return (bytes[at] << 24) >> 24;
    case 2:
      return ((bytes[at] << 24) >> 16) | bytes[at + 1];
    case 3:
      return ((bytes[at] << 24) >> 8) | (bytes[at + 1] << 8) | bytes[at + 2];
    case 4:
      return (bytes[at] << 24) | (bytes[at + 1] << 16) | (bytes[at + 2] << 8) | bytes[at + 3];
    case 5:
      return (((bytes[at] << 24) >> 16) | bytes[at + 1]) * 2 ** 32 + low32(bytes, at + 2);
    case 6: {
      const high = (bytes[at] << 24) | (bytes[at + 1] << 16) | (bytes[at + 2] << 8) | bytes[at + 3];
      const value = high * 2 ** 32 + low32(bytes, at + 4);
      return Number.isSafeInteger(value) ? value : shortened(view(bytes, at, 8).getBigInt64(0));
    }
    case 7:
      return view(bytes, at, 8).getFloat64(0);
    case 8:
      return 0;
    case 9:
      return 1;
    default: {
      const end = at + serialBytes(type);
      return type & 1 ? decodeText(bytes, at, end, encoding) : bytes.slice(at, end);
    }
  }
}
