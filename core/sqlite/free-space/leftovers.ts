import type { Gap } from "../format/page.ts";
import { headless, mayBeFreeBlock } from "./headless.ts";
import { type Looking, SMALLEST, type Weighed } from "./reading.ts";
import { LEAST_PAYLOAD, wholeCell } from "./whole-cell.ts";

/**
 * Rows in free space of a page. A freed cell keeps its bytes but for the first four, where the page's list of free blocks
 * is written ("Database File Format" §1.6); where it was freed at the very beginning of the content, it keeps them all.
 */

/** Rows of one gap that are weighed against each other. */
const MAX_FOUND = 20_000;

/** Readings as they are told of: a loose one that nothing bears out is in doubt. */
function settled(rows: Weighed[], gap: Gap): Weighed[] {
  for (let index = 0; index < rows.length; index++) {
    const { loose, end } = rows[index];
    const next = index + 1 < rows.length ? rows[index + 1].start : gap.to;
    if (loose && (next < end || next > end + LARGEST_FRAGMENT)) rows[index].doubtful = true;
  }
  return rows;
}

/** Bytes between two rows that are too few for a free block ("Database File Format" §1.6). */
const LARGEST_FRAGMENT = 3;

/** All rows that can be told apart in a gap: those that together explain most of its bytes. */
export function findInGap(bytes: Uint8Array, gap: Gap, looking: Looking): Weighed[] {
  const inTurn = gap.unallocated ? null : oneAfterTheOther(bytes, gap, looking);
  if (inTurn) return inTurn;
  const found: Weighed[] = [];
  const { usable } = looking.form;
  for (let at = gap.from; at + SMALLEST <= gap.to && found.length < MAX_FOUND; at++) {
    // Space that was never written: nothing begins in it.
    if (bytes[at] === 0 && bytes[at + 3] === 0 && isZero(bytes, at, gap.to)) {
      at += ZEROS - 4;
      continue;
    }
    if (bytes[at] >= LEAST_PAYLOAD) wholeCell(bytes, at, gap, looking, found);
    if (mayBeFreeBlock(bytes, at, usable)) headless(bytes, at, gap, looking, found);
  }
  return settled(chosen(found), gap);
}

/** So many zeros are no row and no head of one. */
const ZEROS = 16;

function isZero(bytes: Uint8Array, from: number, to: number): boolean {
  if (from + ZEROS > to) return false;
  for (let at = from; at < from + ZEROS; at++) if (bytes[at] !== 0) return false;
  return true;
}

/**
 * Freed cells lie one after the other: where the first bytes of a gap read as a row, the next one begins where it ends.
 * @returns null where that does not lead to the end of the gap: then every byte must be looked at
 */
function oneAfterTheOther(bytes: Uint8Array, gap: Gap, looking: Looking): Weighed[] | null {
  const rows: Weighed[] = [];
  const found: Weighed[] = [];
  let at = gap.from;
  for (let skipped = 0; gap.to - at >= SMALLEST; ) {
    found.length = 0;
    wholeCell(bytes, at, gap, looking, found);
    headless(bytes, at, gap, looking, found);
    let best: Weighed | null = null;
    for (const one of found) if (one.how !== "cut" && !one.doubtful && (!best || one.weight > best.weight)) best = one;
    if (best) {
      rows.push(best);
      at = best.end;
      skipped = 0;
    } else {
      // Up to three bytes that are too short for a free block may stand before it.
      if (++skipped > LARGEST_FRAGMENT) return null;
      at++;
    }
  }
  return settled(rows, gap);
}

/** Of all readings those that do not overlap and together weigh most (weighted interval scheduling). */
function chosen(found: Weighed[]): Weighed[] {
  if (found.length === 0) return [];
  if (found.length > 1) found.sort((a, b) => a.end - b.end);
  const best = new Float64Array(found.length + 1);
  const taken = new Uint8Array(found.length);
  const previous = new Int32Array(found.length);
  for (let index = 0; index < found.length; index++) {
    let low = 0;
    let high = index;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (found[middle].end <= found[index].start) low = middle + 1;
      else high = middle;
    }
    previous[index] = low;
    const withIt = best[low] + found[index].weight;
    taken[index] = Number(withIt > best[index]);
    best[index + 1] = Math.max(best[index], withIt);
  }
  const rows: Weighed[] = [];
  for (let index = found.length; index > 0; )
    if (taken[index - 1]) {
      rows.push(found[index - 1]);
      index = previous[index - 1];
    } else index--;
  return rows.reverse();
}
