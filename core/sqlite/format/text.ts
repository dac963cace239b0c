import type { Encoding } from "./record.ts";

/**
 * Could these bytes be a text that a person or a program wrote? Valid in its encoding, and without control characters but
 * for tabs and line ends. `cut`: the last character may be broken off.
 */
export function looksLikeText(bytes: Uint8Array, from: number, to: number, cut: boolean, encoding: Encoding): boolean {
  return encoding === "utf-8" ? isUtf8(bytes, from, to, cut) : isUtf16(bytes, from, to, cut, encoding === "utf-16le" ? 1 : 0);
}

const isControl = (unit: number): boolean => (unit < 0x20 && unit !== 9 && unit !== 10 && unit !== 13) || unit === 0x7f;

/** Bytes below 80 that stand in a text. */
const PLAIN = Uint8Array.from({ length: 256 }, (_, byte) => Number(byte < 0x80 && !isControl(byte)));

/** RFC 3629 §4. */
function isUtf8(bytes: Uint8Array, from: number, to: number, cut: boolean): boolean {
  for (let at = from; at < to; ) {
    const first = bytes[at];
    if (PLAIN[first] === 1) {
      at++;
      continue;
    }
    if (first < 0x80) return false;
    const more = first >= 0xc2 && first < 0xe0 ? 1 : first >= 0xe0 && first < 0xf0 ? 2 : first >= 0xf0 && first < 0xf5 ? 3 : 0;
    if (more === 0) return false;
    for (let index = 1; index <= more; index++) {
      if (at + index >= to) return cut;
      if ((bytes[at + index] & 0xc0) !== 0x80) return false;
    }
    if (first === 0xe0 && bytes[at + 1] < 0xa0) return false;
    if (first === 0xf0 && bytes[at + 1] < 0x90) return false;
    at += more + 1;
  }
  return true;
}

function isUtf16(bytes: Uint8Array, from: number, to: number, cut: boolean, high: number): boolean {
  if ((to - from) % 2 === 1 && !cut) return false;
  let pair = false;
  for (let at = from; at + 2 <= to; at += 2) {
    const unit = (bytes[at + high] << 8) | bytes[at + 1 - high];
    if (pair !== (unit >= 0xdc00 && unit < 0xe000)) return false;
    pair = unit >= 0xd800 && unit < 0xdc00;
    if (isControl(unit)) return false;
  }
  return !pair || cut;
}
