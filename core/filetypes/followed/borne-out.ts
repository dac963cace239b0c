import type { ByteSource } from "../../bytes/source.ts";
import { isAllZero } from "../../bytes/zeros.ts";
import type { Followed } from "../file-type.ts";
import { some } from "./follow.ts";

/** What is not longer than this is read anyway: it is believed. */
const SHORT = 1024 * 1024;
/** Places in a long content that are looked at, and bytes at each: enough to tell data from space that nothing was ever written to. */
const PLACES = 12;
const LOOK = 4096;
/** Ends are told to this many bytes. */
const GRAIN = 4096;
/** Where data are looked for from the beginning on: the first place, and how many times further each next one lies. */
const NEAR = 60 * 1024;
const FURTHER = 4;

/**
 * Holds the length that a head claims against what lies there. A head is a few bytes, and what it claims costs nothing: it is believed
 * where data stand at its end and at most places before; else the content ends where data do. Reads a bounded number of places.
 */
export async function borneOut(content: ByteSource, followed: Followed): Promise<Followed> {
  const length = Math.min(followed.length, content.size);
  const claimed = { ...followed, length, ends: followed.ends && length === followed.length };
  if (length <= (claimed.ends ? SHORT : NEAR)) return claimed;
  const isEmpty = async (at: number) => isAllZero(await some(content, at, Math.min(LOOK, length - at)));
  if (!(await isEmpty(length - LOOK))) {
    let empty = 0;
    for (let place = 1; place < PLACES; place++) if (await isEmpty(Math.floor((length * place) / PLACES))) empty++;
    if (empty < PLACES / 2) return claimed;
  }
  const end = await endOfData(isEmpty, length);
  return end === null ? claimed : { ...followed, length: Math.min(length, end), ends: false };
}

/** Where data end: two places in a row, further and further from the beginning, at which nothing was ever written. Null: they do not. */
async function endOfData(isEmpty: (at: number) => Promise<boolean>, length: number): Promise<number | null> {
  let low = 0;
  let high: number | null = null;
  for (let at = NEAR; at < length - LOOK; at *= FURTHER) {
    if (!(await isEmpty(at))) {
      low = at;
      high = null;
    } else if (high !== null) break;
    else high = at;
  }
  if (high === null) return null;
  for (let empty: number = high; empty - low > GRAIN; ) {
    const middle: number = Math.floor((low + empty) / 2 / GRAIN) * GRAIN;
    if (middle <= low) break;
    if (await isEmpty(middle)) empty = middle;
    else low = middle;
  }
  return (Math.floor(low / GRAIN) + 1) * GRAIN;
}

/** Bytes of zeros in a row that no packed content holds: where they begin, it was cut off. */
const NEVER_PACKED = 1024 * 1024;

/** Watches pieces of a packed content for a stretch of zeros that it cannot hold. */
export class ZeroWatch {
  #zeros = 0;

  /** @returns whether the content cannot go on here */
  sees(piece: Uint8Array): boolean {
    this.#zeros = isAllZero(piece) ? this.#zeros + piece.length : 0;
    return this.#zeros >= NEVER_PACKED;
  }
}
