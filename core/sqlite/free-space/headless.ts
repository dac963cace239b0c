import { type Gap, localBytes } from "../format/page.ts";
import { bodyBytes, readTypes, serialBytes } from "../format/record.ts";
import { varintLength, varintNumber, varintSize } from "../format/varint.ts";
import type { TableFit } from "../tables/fit.ts";
import { LEAST, LEAST_VALUES, type Looking, likeness, lyingAt, MAX_PAYLOAD, nearness, SMALLEST, types, Weighed } from "./reading.ts";

/** Cells in free space whose first four bytes a free block was written over: what is lost is worked out from what is left. */

/** Readings of one headless row that are tried. */
const MAX_READINGS = 64;

/** Bytes of the longest head: three of a payload's length, nine of a row id. */
const LONGEST_HEAD = 12;

/** Free blocks are in order, within the page, and never so close that they would have been joined ("Database File Format" §1.6). */
export function mayBeFreeBlock(bytes: Uint8Array, at: number, usable: number): boolean {
  const size = (bytes[at + 2] << 8) | bytes[at + 3];
  if (size < SMALLEST || at + size > usable) return false;
  const next = (bytes[at] << 8) | bytes[at + 1];
  return next === 0 || (next >= at + size + 4 && next + 4 <= usable);
}

/** A free block that may be a headless cell, or several: what all readings of it are held against. */
interface Block {
  readonly bytes: Uint8Array;
  /** Where it begins in the page, and its size by its own word. */
  readonly at: number;
  readonly size: number;
  /** Where it ends, or the gap does. */
  readonly to: number;
  readonly gap: Gap;
  readonly looking: Looking;
  /** Readings that were believed are put here. */
  readonly found: Weighed[];
}

/**
 * A cell of which the first four bytes are a free block's (§1.6: where the next one is, and how long this one): what is lost is worked out from
 * what is left.
 */
export function headless(bytes: Uint8Array, at: number, gap: Gap, looking: Looking, found: Weighed[]): void {
  const { form, shapes } = looking;
  if (!mayBeFreeBlock(bytes, at, form.usable)) return;
  const size = (bytes[at + 2] << 8) | bytes[at + 3];
  const block: Block = { bytes, at, size, to: Math.min(gap.to, at + size), gap, looking, found };
  // Head of two bytes (length and row id) to twelve; the header begins behind it.
  if (shapes.rowid.length > 0) {
    for (let head = 2; head <= 4; head++) headlessRow(block, head, false);
    // The row id's last bytes may be left: all but its last have their high bit set, so that they say where the header begins.
    let last = at + 4;
    while (last < at + LONGEST_HEAD && bytes[last] >= 0x80) last++;
    if (last < at + LONGEST_HEAD) headlessRow(block, last + 1 - at, false);
  }
  if (shapes.keyed.length > 0) for (let head = 1; head <= 3; head++) headlessRow(block, head, true);
}

function headlessRow(block: Block, head: number, keyed: boolean): void {
  const { bytes, at, looking } = block;
  const { shapes } = looking;
  const header = at + head;
  if (head >= 4) {
    let headerBytes = bytes[header];
    let place = header + 1;
    if (headerBytes >= 0x80) headerBytes = ((headerBytes & 0x7f) << 7) | bytes[place++];
    if (headerBytes < shapes.fewest || headerBytes > shapes.most || header + headerBytes > block.to || !shapes.mayBegin(bytes[place]))
      return;
    if (!readTypes(bytes, place, header + headerBytes, types, 2000)) return;
    const fit = shapes.best(types, keyed, looking.owner, LEAST.headLost);
    if (fit) consider(block, head, header + headerBytes, fit, false);
    return;
  }
  // The header's own size is lost, and perhaps the first types with it: how many there must be is known from the tables.
  const lost = 3 - head;
  if (lost === 0 && !shapes.mayBegin(bytes[at + 4])) return;
  if (lost === 0) for (const width of keyed ? shapes.keyedWidths : shapes.rowidWidths) tryLost(block, head, NONE, width, keyed);
  else if (keyed) for (const width of shapes.keyedWidths) tryUnknown(block, head, lost, width, keyed);
  else {
    if (shapes.mayFollowRowid(bytes[at + 4])) for (const width of shapes.rowidFirstWidths) tryLost(block, head, ROWID, width, keyed);
    for (const width of shapes.otherFirstWidths) tryUnknown(block, head, lost, width, keyed);
  }
}

const NONE: readonly number[] = [];

/** The NULL that stands for the row id. */
const ROWID: readonly number[] = [0];

const UNKNOWN: readonly (readonly number[])[] = [NONE, [0], [0, 0]];

/** Reads as many types as a record of this width still needs, the first ones given. @returns where they end, or 0 */
function restOfTypes(bytes: Uint8Array, from: number, to: number, first: readonly number[], width: number): number {
  types.length = 0;
  for (let index = 0; index < first.length; index++) types.push(first[index]);
  let place = from;
  let sum = 0;
  while (types.length < width) {
    if (place >= to) return 0;
    let type = bytes[place];
    let length = 1;
    if (type >= 0x80) {
      length = varintLength(bytes, place, to);
      if (length === 0 || length > 5) return 0;
      type = varintNumber(bytes, place, length);
    }
    const taken = serialBytes(type);
    sum += taken;
    if (taken < 0 || sum > MAX_PAYLOAD) return 0;
    types.push(type);
    place += length;
  }
  return place;
}

/** The first types are known although their bytes are lost. */
function tryLost(block: Block, head: number, first: readonly number[], width: number, keyed: boolean): void {
  const { bytes, at, looking } = block;
  for (const fit of looking.shapes.ofWidth(width, keyed)) {
    if (fit.width !== width || (first === ROWID && !fit.beginsWithRowid)) continue;
    types.length = 0;
    if (first === ROWID) types.push(0);
    const body = fit.readFitting(bytes, at + 4, block.to, types, LEAST.headLost);
    if (body > 0 && fit.score(types) >= LEAST.headLost) consider(block, head, body, fit, false);
  }
}

/**
 * Bytes of lost types of which nothing is known. Where the free block is one row, their sizes follow from its size; else the
 * column's usual types are tried. Each lost byte is a type of its own, or the last one is the first half of a type whose
 * second half is there.
 */
function tryUnknown(block: Block, head: number, lost: number, width: number, keyed: boolean): void {
  const { bytes, at, size, looking, found } = block;
  for (let halved = 0; halved < 2; halved++) {
    const tail = halved === 1 ? bytes[at + 4] : -1;
    if (tail >= 0x80) continue;
    const body = restOfTypes(bytes, at + 4 + halved, block.to, UNKNOWN[lost], width);
    if (body === 0 || body - (at + head) > 127) continue;
    const left = size - (body - at) - bodyBytes(types);
    let rest: readonly number[] | null = null;
    for (const fit of looking.shapes.ofWidth(width, keyed)) {
      // Of an index only what fills its block is believed: it has few columns, and many entries lie in a row.
      if (fit.width !== width || fit.beginsWithRowid || (fit.indexOf && left < 0)) continue;
      rest ??= types.slice(lost);
      setTypes(UNKNOWN[lost], rest);
      if (fit.score(types, lost) < LEAST.headLost) continue;
      const before = found.length;
      // Where the border between two texts is lost, it is told only by a column whose values are all of one length.
      const isTold = lost < 2 || fit.typesOf(0, null).length === 1 || fit.typesOf(1, null).length === 1;
      for (const first of firstTypes(fit, lost, left, tail)) {
        setTypes(first, rest);
        consider(block, head, body, fit, !isTold);
      }
      if (found.length > before + 1) keepHeaviest(found, before);
    }
  }
}

/** Puts together the types that are looked at now. In a loop: this is done for most bytes of free space. */
function setTypes(first: readonly number[], rest: readonly number[]): void {
  types.length = first.length + rest.length;
  for (let index = 0; index < first.length; index++) types[index] = first[index];
  for (let index = 0; index < rest.length; index++) types[first.length + index] = rest[index];
}

/** Readings that weigh nearly as much as the heaviest are as good as it. */
const NEARLY = 0.85;

/** Several readings of one place: the heaviest. Where others are as good, none is sure. */
function keepHeaviest(found: Weighed[], from: number): void {
  const readings = found.splice(from);
  const heaviest = Math.max(...readings.map(({ weight }) => weight));
  const rivals = readings.filter(({ weight }) => weight >= heaviest * NEARLY).length - 1;
  const best = readings.find(({ weight }) => weight === heaviest);
  if (!best) return;
  best.doubtful ||= rivals > 0;
  found.push(best);
}

/**
 * Types that the first one or two columns may have: such that they fill `left` bytes, and else usual ones. `tail`: the lower
 * half of the last of them, or negative where they are of one byte each.
 */
function firstTypes(fit: TableFit, lost: number, left: number, tail: number): readonly (readonly number[])[] {
  const all: number[][] = [];
  if (lost === 1) {
    if (left >= 0) for (const type of fit.typesOf(0, left)) if (mayStand(type, tail)) addOnce(all, [type]);
    if (!fit.indexOf) for (const type of fit.typesOf(0, null)) if (mayStand(type, tail)) addOnce(all, [type]);
    return all;
  }
  // The last lost byte is the first half of a type; one before it is a type of its own.
  for (const one of fit.typesOf(0, null)) {
    const rest = left - serialBytes(one);
    if (mayStand(one, -1) && rest >= 0) for (const two of fit.typesOf(1, rest)) if (mayStand(two, tail)) addOnce(all, [one, two]);
  }
  if (fit.indexOf) return all;
  for (const one of fit.typesOf(0, null))
    if (mayStand(one, -1)) for (const two of fit.typesOf(1, null)) if (mayStand(two, tail)) addOnce(all, [one, two]);
  return all;
}

/** May a lost byte have been this type, or, where its lower half is left, the first half of it? */
const mayStand = (type: number, tail: number): boolean => (tail >= 0 ? type >= 128 && type < 16_384 && type % 128 === tail : type < 128);

function addOnce(all: number[][], first: number[]): void {
  if (all.length < MAX_READINGS && !all.some((one) => one[0] === first[0] && one[1] === first[1])) all.push(first);
}

/** A reading of a headless cell: do its sizes agree with each other? */
function consider({ bytes, at, size, gap, looking, found }: Block, head: number, body: number, fit: TableFit, doubtful: boolean): void {
  const { form } = looking;
  const keyed = fit.table.withoutRowid;
  const headerBytes = body - (at + head);
  const allBytes = bodyBytes(types);
  const payload = headerBytes + allBytes;
  if (payload > MAX_PAYLOAD) return;
  const lengthBytes = varintSize(payload);
  const rowidBytes = head - lengthBytes;
  if (keyed ? rowidBytes !== 0 : rowidBytes < 1 || rowidBytes > 9) return;
  // Row ids do not grow much beyond those that are known.
  if (!keyed && fit.largestRowid > 0 && rowidBytes > varintSize(fit.largestRowid * 2)) return;
  const local = localBytes(payload, !keyed, form.usable);
  const end = Math.max(at + head + local + (local < payload ? 4 : 0), at + 4);
  const exact = end === at + size;
  const there = Math.min(end, gap.to);
  const cut = end > gap.to;
  // A block that is too short for its row was given away from its end on; one that is longer holds more rows behind it.
  if (cut && (there <= body || fit.score(types) < LEAST.cut || fit.width < 4)) return;
  const row = lyingAt(bytes, fit, at, there, body, allBytes, local - headerBytes, local < payload, gap);
  const likely = row ? likeness(bytes, row, looking.encoding, cut ? LEAST_VALUES.cut : LEAST_VALUES.headLost, 0) : 0;
  if (!row || likely === 0) return;
  const worth = (there - at) * (cut ? 0.4 : exact ? 0.95 : 0.8) * likely * nearness(fit, looking);
  found.push(new Weighed(row, cut ? "cut" : "head lost", null, worth, doubtful, head < 4 && !exact));
}
