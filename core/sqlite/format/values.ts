import { equalBytes } from "../../bytes/equal.ts";
import { decodeText, type Encoding, serialBytes, type Value, valueAt } from "./record.ts";
import type { Table } from "./schema.ts";
import { looksLikeText } from "./text.ts";

/** The values of a row by its table's columns. Undefined: not known. */
export type Values = (Value | undefined)[];

/** What of a row's values could be read. */
export interface Read {
  readonly values: Values;
  /** Every value is there. */
  readonly complete: boolean;
}

/**
 * The values of a record by its table's columns. `bytes` from `body` on hold `there` bytes of them; what lies behind is lost: a
 * text is cut where it ends, all else is not known.
 */
export function readValues(
  table: Table,
  types: readonly number[],
  bytes: Uint8Array,
  body: number,
  there: number,
  rowid: number | bigint | null,
  encoding: Encoding,
): Read {
  const values: Values = new Array(table.columns.length).fill(undefined);
  let complete = true;
  let at = 0;
  for (let place = 0; place < table.stored.length; place++) {
    const column = table.stored[place];
    if (place >= types.length) {
      values[column] = table.columns[column].preset;
      continue;
    }
    const type = types[place];
    const length = serialBytes(type);
    if (at + length <= there) values[column] = valueAt(bytes, body + at, type, encoding);
    else {
      complete = false;
      const left = there - at;
      if (left > 0 && type >= 13 && type & 1) values[column] = cutText(bytes, body + at, body + at + left, encoding);
    }
    at += length;
  }
  if (table.rowidColumn >= 0) values[table.rowidColumn] = rowid ?? undefined;
  return { values, complete };
}

/** The values of a record whose beginning lies in its page, and the rest elsewhere. */
export function joined(own: Uint8Array, rest: Uint8Array): Uint8Array {
  const whole = new Uint8Array(own.length + rest.length);
  whole.set(own);
  whole.set(rest, own.length);
  return whole;
}

/** A text that is broken off: without the half of a character that may stand at its end. */
function cutText(bytes: Uint8Array, from: number, to: number, encoding: Encoding): string | undefined {
  let end = to;
  if (encoding === "utf-8") {
    let back = 1;
    while (back <= 4 && end - back >= from && (bytes[end - back] & 0xc0) === 0x80) back++;
    const lead = bytes[end - back];
    if (end - back >= from && lead >= 0xc0 && (lead < 0xe0 ? 2 : lead < 0xf0 ? 3 : 4) > back) end -= back;
  } else end -= (end - from) % 2;
  return end > from ? decodeText(bytes, from, end, encoding) : undefined;
}

/** Do all texts of a record read as texts, as far as they are there: `there` bytes of its values from `body` on? */
export function textsRead(types: readonly number[], bytes: Uint8Array, body: number, there: number, encoding: Encoding): boolean {
  let at = body;
  const end = body + there;
  for (const type of types) {
    const length = serialBytes(type);
    if (type >= 13 && type & 1 && !looksLikeText(bytes, at, Math.min(at + length, end), at + length > end, encoding)) return false;
    at += length;
    if (at >= end) break;
  }
  return true;
}

/** Is a value one that two rows hardly share by chance? */
const tells = (value: Value | undefined): boolean =>
  typeof value === "string"
    ? value.length >= 4
    : typeof value === "number"
      ? Math.abs(value) > 0xffff
      : value instanceof Uint8Array || typeof value === "bigint";

const same = (a: Value | undefined, b: Value | undefined): boolean =>
  a instanceof Uint8Array && b instanceof Uint8Array ? equalBytes(a, b) : a === b;

/** Are two contents of one row id versions of one row, or two rows of which the second was given the number of the first? */
export function isSameRow(a: Values, b: Values): boolean {
  let alike = 0;
  let different = 0;
  for (let column = 0; column < a.length; column++) {
    if (a[column] === undefined || b[column] === undefined) continue;
    if (!tells(a[column]) && !tells(b[column])) continue;
    if (same(a[column], b[column])) alike++;
    else different++;
  }
  return alike >= different;
}
