import type { Shapes, TableFit } from "./fit.ts";
import type { FoundRow } from "./found-row.ts";
import { Freeblock } from "./layout.ts";
import { type Gap, localBytes, type PageForm } from "./page.ts";
import { bodyBytes, type Encoding, readTypes, serialBytes } from "./record.ts";
import { looksLikeText } from "./text.ts";
import { rowidAt, varintLength, varintNumber, varintSize } from "./varint.ts";

/**
 * Rows in free space of a page. A freed cell keeps its bytes but for the first four, where the page's list of free blocks
 * is written ("Database File Format" §1.6); where it was freed at the very beginning of the content, it keeps them all.
 */

/** Least scores of types and of values, by how much else speaks for a row. */
const LEAST = { exact: 0.5, headLost: 0.6, cut: 0.75 };
const LEAST_VALUES = { exact: 0.55, headLost: 0.7, cut: 0.8 };
/** One value in so many may be unlike all others of its column; where the head is there, one in any case. */
const STRANGE_ONE_IN = 6;
/** How much a row must tell (see `told`) before it is no chance: where the table's habits are known, and where not. */
const LEAST_TOLD = { learned: 6, unknown: 24 };
/** What a row of another table than the page's own is worth: pages change hands, but seldom. */
const STRANGER = 0.7;
/** Payloads beyond this are no rows of a phone. */
const MAX_PAYLOAD = 64 * 1024 * 1024;
/** A row of fewer bytes is told by chance. */
const SMALLEST = 5;
/** Readings of one headless row that are tried. */
const MAX_READINGS = 64;
/** Rows of one gap that are weighed against each other. */
const MAX_FOUND = 20_000;

interface Weighed extends FoundRow {
  readonly weight: number;
  /** How many values it has is lost, and it does not fill its free block: it is believed where the next row begins at its end. */
  readonly loose: boolean;
}

/** Readings as they are told of: a loose one that nothing bears out is in doubt. */
function settled(rows: readonly Weighed[], gap: Gap): FoundRow[] {
  return rows.map(({ loose, weight: _, ...row }, index) => {
    const next = rows[index + 1]?.start ?? gap.to;
    return loose && (next < row.end || next > row.end + LARGEST_FRAGMENT) ? { ...row, doubtful: true } : row;
  });
}

/** Bytes between two rows that are too few for a free block ("Database File Format" §1.6). */
const LARGEST_FRAGMENT = 3;

/** What rows are looked for in a page. */
export interface Looking {
  readonly shapes: Shapes;
  readonly form: PageForm;
  readonly encoding: Encoding;
  /** The table that the page belongs or belonged to. */
  readonly owner: TableFit | null;
}

const types: number[] = [];

/** All rows that can be told apart in a gap: those that together explain most of its bytes. */
export function findInGap(bytes: Uint8Array, gap: Gap, looking: Looking): FoundRow[] {
  const inTurn = gap.unallocated ? null : oneAfterTheOther(bytes, gap, looking);
  if (inTurn) return inTurn;
  const found: Weighed[] = [];
  for (let at = gap.from; at + SMALLEST <= gap.to && found.length < MAX_FOUND; at++) {
    // Space that was never written: nothing begins in it.
    if (bytes[at] === 0 && bytes[at + 3] === 0 && isZero(bytes, at, gap.to)) {
      at += ZEROS - 4;
      continue;
    }
    wholeCell(bytes, at, gap, looking, found);
    headless(bytes, at, gap, looking, found);
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
function oneAfterTheOther(bytes: Uint8Array, gap: Gap, looking: Looking): FoundRow[] | null {
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

/** A cell with its head: payload length, row id and header agree. */
function wholeCell(bytes: Uint8Array, at: number, gap: Gap, looking: Looking, found: Weighed[]): void {
  const { shapes, form } = looking;
  const lengthBytes = bytes[at] < 0x80 ? 1 : varintLength(bytes, at, gap.to);
  if (lengthBytes === 0 || lengthBytes > 4) return;
  const payload = varintNumber(bytes, at, lengthBytes);
  if (payload < 3 || payload > MAX_PAYLOAD) return;
  const place = at + lengthBytes;
  if (shapes.rowid.length > 0) {
    const rowidBytes = bytes[place] < 0x80 ? 1 : varintLength(bytes, place, gap.to);
    if (rowidBytes > 0) {
      const header = place + rowidBytes;
      if (header < gap.to && headerAt(bytes, header, gap.to, payload, shapes))
        takeWhole(bytes, at, header, payload, gap, looking, false, found, form);
    }
  }
  if (shapes.keyed.length > 0 && place < gap.to && headerAt(bytes, place, gap.to, payload, shapes))
    takeWhole(bytes, at, place, payload, gap, looking, true, found, form);
}

/** Where the values of the header that was read last begin. */
let bodyAt = 0;

/** A header whose types add up to the payload exactly. Fills `types` and `bodyAt`. */
function headerAt(bytes: Uint8Array, header: number, to: number, payload: number, shapes: Shapes): boolean {
  let size = bytes[header];
  let place = header + 1;
  if (size >= 0x80) {
    if (place >= to || bytes[place] >= 0x80) return false;
    size = ((size & 0x7f) << 7) | bytes[place++];
  }
  if (size < shapes.fewest || size > shapes.most || size > payload || header + size > to) return false;
  const end = header + size;
  let sum = size;
  types.length = 0;
  while (place < end) {
    let type = bytes[place];
    let length = 1;
    if (type >= 0x80) {
      length = varintLength(bytes, place, end);
      if (length === 0 || length > 5) return false;
      type = varintNumber(bytes, place, length);
    }
    const taken = serialBytes(type);
    if (taken < 0) return false;
    sum += taken;
    if (sum > payload) return false;
    types.push(type);
    place += length;
  }
  bodyAt = end;
  return sum === payload;
}

function takeWhole(
  bytes: Uint8Array,
  at: number,
  header: number,
  payload: number,
  gap: Gap,
  looking: Looking,
  keyed: boolean,
  found: Weighed[],
  form: PageForm,
): void {
  const fit = looking.shapes.best(types, keyed, looking.owner, LEAST.exact);
  if (!fit) return;
  const local = localBytes(payload, !keyed, form.usable);
  const end = Math.max(header + local + (local < payload ? 4 : 0), at + 4);
  const there = Math.min(end, gap.to);
  const cut = end > gap.to;
  const row = rowOf(bytes, fit, at, there, bodyAt, payload - (bodyAt - header), local - (bodyAt - header), local < payload, gap);
  const likely = row ? likeness(bytes, row, looking.encoding, cut ? LEAST_VALUES.cut : LEAST_VALUES.exact, 1) : 0;
  if (!row || likely === 0) return;
  const lengthBytes = varintLength(bytes, at, gap.to);
  const rowid = keyed ? null : rowidAt(bytes, at + lengthBytes, header - at - lengthBytes);
  // Few and short values agree by chance now and then: what stands alone must say more.
  const worth = (there - at) * (cut ? 0.55 : 1) * likely * nearness(fit, looking);
  found.push({ ...row, how: cut ? "cut" : "leftover", rowid, weight: worth, loose: false });
}

/** What a row's place in the page and its types make. @returns null where not even its first value is there */
function rowOf(
  bytes: Uint8Array,
  fit: TableFit,
  start: number,
  end: number,
  body: number,
  allBytes: number,
  localBody: number,
  spills: boolean,
  { unallocated }: Gap,
): FoundRow | null {
  const local = Math.min(localBody, end - body);
  if (local < 0) return null;
  const pointer = body + localBody;
  const overflow =
    spills && pointer + 4 <= end
      ? ((bytes[pointer] << 24) | (bytes[pointer + 1] << 16) | (bytes[pointer + 2] << 8) | bytes[pointer + 3]) >>> 0
      : 0;
  return {
    fit,
    how: "leftover",
    start,
    end,
    rowid: null,
    types: types.slice(),
    body,
    local,
    bodyBytes: allBytes,
    overflow,
    doubtful: false,
    unallocated,
  };
}

/**
 * Do texts read as texts, as far as they lie here, do values look like those of their columns, and is there enough of them?
 * @returns how much they look so, 0 to 1; 0 where it is not enough
 */
function likeness(bytes: Uint8Array, row: FoundRow, encoding: Encoding, least: number, strange: number): number {
  const { fit, types: own, body, local } = row;
  if (told(bytes, row) < (fit.learned ? LEAST_TOLD.learned : LEAST_TOLD.unknown) || !readsWell(bytes, row, encoding)) return 0;
  const score = fit.scoreValues(own, bytes, body, local, encoding, Math.max(strange, Math.floor(own.length / STRANGE_ONE_IN)));
  return score >= least ? score : 0;
}

const nearness = (fit: TableFit, { owner }: Looking): number => (owner && fit !== owner ? STRANGER : 1);

/** How much the values of a row say, roughly in bytes that would have to agree by chance. Zeros say nothing. */
function told(bytes: Uint8Array, { types: own, body, local }: FoundRow): number {
  // That so many types fit so many columns says something too.
  let sum = Math.min(1.5, own.length * 0.1);
  let at = 0;
  for (const type of own) {
    const length = serialBytes(type);
    if (at + length > local) break;
    if (type === 8 || type === 9) sum += 0.5;
    else if (length > 0) {
      let set = 0;
      for (let index = 0; index < Math.min(length, 12); index++) if (bytes[body + at + index] !== 0) set++;
      sum += type < 12 ? 0.7 + set * 0.7 : type & 1 ? set : set * 0.3;
    }
    at += length;
  }
  return sum;
}

function readsWell(bytes: Uint8Array, row: FoundRow, encoding: Encoding): boolean {
  let at = row.body;
  const end = row.body + row.local;
  for (const type of row.types) {
    const length = serialBytes(type);
    if (type >= 13 && type & 1 && !looksLikeText(bytes, at, Math.min(at + length, end), at + length > end, encoding)) return false;
    at += length;
    if (at >= end) break;
  }
  return true;
}

/** A cell of which the first four bytes are a free block's: what is lost is worked out from what is left. */
function headless(bytes: Uint8Array, at: number, gap: Gap, looking: Looking, found: Weighed[]): void {
  const { form, shapes } = looking;
  const size = Freeblock.bytes(bytes, at);
  const next = Freeblock.next(bytes, at);
  if (size < SMALLEST || at + size > form.usable) return;
  // Free blocks are in order, and never so close that they would have been joined.
  if (next !== 0 && (next < at + size + 4 || next + 4 > form.usable)) return;
  const block = { ...gap, to: Math.min(gap.to, at + size) };
  if (shapes.rowid.length > 0) {
    // Head of two bytes (length and row id) to twelve; the header begins behind it.
    for (let head = 2; head <= 12; head++) headlessRow(bytes, at, head, size, block, gap, looking, false, found);
  }
  if (shapes.keyed.length > 0) for (let head = 1; head <= 3; head++) headlessRow(bytes, at, head, size, block, gap, looking, true, found);
}

function headlessRow(
  bytes: Uint8Array,
  at: number,
  head: number,
  size: number,
  block: Gap,
  gap: Gap,
  looking: Looking,
  keyed: boolean,
  found: Weighed[],
): void {
  const { shapes } = looking;
  const header = at + head;
  const known = at + 4;
  if (head >= 4) {
    // The row id's last bytes may be left: all but its last have their high bit set.
    for (let place = known; place < header; place++) if (bytes[place] >= 0x80 !== place < header - 1) return;
    let headerBytes = bytes[header];
    let place = header + 1;
    if (headerBytes >= 0x80) headerBytes = ((headerBytes & 0x7f) << 7) | bytes[place++];
    if (headerBytes < shapes.fewest || headerBytes > shapes.most || header + headerBytes > block.to) return;
    if (!readTypes(bytes, place, header + headerBytes, types, 2000)) return;
    const fit = shapes.best(types, keyed, looking.owner, LEAST.headLost);
    if (fit) consider(bytes, at, head, header + headerBytes, size, gap, fit, looking, found, false);
    return;
  }
  // The header's own size is lost, and perhaps the first types with it: how many there must be is known from the tables.
  const lost = 3 - head;
  if (lost === 0)
    for (const width of keyed ? shapes.keyedWidths : shapes.rowidWidths)
      tryLost(bytes, at, head, NONE, width, size, block, gap, looking, keyed, found);
  else if (keyed) for (const width of shapes.keyedWidths) tryUnknown(bytes, at, head, lost, width, size, block, gap, looking, keyed, found);
  else {
    for (const width of shapes.rowidFirstWidths) tryLost(bytes, at, head, ROWID, width, size, block, gap, looking, keyed, found);
    for (const width of shapes.otherFirstWidths) tryUnknown(bytes, at, head, lost, width, size, block, gap, looking, keyed, found);
  }
}

const NONE: readonly number[] = [];
/** The NULL that stands for the row id. */
const ROWID: readonly number[] = [0];
const UNKNOWN: readonly (readonly number[])[] = [NONE, [0], [0, 0]];

/** Reads as many types as a record of this width still needs, the first ones given. @returns where they end, or 0 */
function restOfTypes(bytes: Uint8Array, from: number, to: number, first: readonly number[], width: number, most: number): number {
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
    if (taken < 0 || sum > most) return 0;
    types.push(type);
    place += length;
  }
  return place;
}

/** The first types are known although their bytes are lost. */
function tryLost(
  bytes: Uint8Array,
  at: number,
  head: number,
  first: readonly number[],
  width: number,
  size: number,
  block: Gap,
  gap: Gap,
  looking: Looking,
  keyed: boolean,
  found: Weighed[],
): void {
  const body = restOfTypes(bytes, at + 4, block.to, first, width, MAX_PAYLOAD);
  if (body === 0) return;
  for (const fit of looking.shapes.ofWidth(width, keyed)) {
    if (fit.width !== width || (first === ROWID && !fit.beginsWithRowid) || fit.score(types) < LEAST.headLost) continue;
    consider(bytes, at, head, body, size, gap, fit, looking, found, false);
  }
}

/**
 * Bytes of lost types of which nothing is known. Where the free block is one row, their sizes follow from its size; else the
 * column's usual types are tried. Each lost byte is a type of its own, or the last one is the first half of a type whose
 * second half is there.
 */
function tryUnknown(
  bytes: Uint8Array,
  at: number,
  head: number,
  lost: number,
  width: number,
  size: number,
  block: Gap,
  gap: Gap,
  looking: Looking,
  keyed: boolean,
  found: Weighed[],
): void {
  for (let halved = 0; halved < 2; halved++) {
    const tail = halved === 1 ? bytes[at + 4] : -1;
    if (tail >= 0x80) continue;
    const body = restOfTypes(bytes, at + 4 + halved, block.to, UNKNOWN[lost], width, MAX_PAYLOAD);
    if (body === 0 || body - (at + head) > 127) continue;
    const rest = types.slice(lost);
    const left = size - (body - at) - bodyBytes(types);
    for (const fit of looking.shapes.ofWidth(width, keyed)) {
      if (fit.width !== width || fit.beginsWithRowid) continue;
      types.length = 0;
      types.push(...UNKNOWN[lost], ...rest);
      if (fit.score(types, lost) < LEAST.headLost) continue;
      const before = found.length;
      // Where the border between two texts is lost, it is told only by a column whose values are all of one length.
      const isTold = lost < 2 || fit.typesOf(0, null).length === 1 || fit.typesOf(1, null).length === 1;
      for (const first of firstTypes(fit, lost, left, tail)) {
        types.length = 0;
        types.push(...first, ...rest);
        consider(bytes, at, head, body, size, gap, fit, looking, found, !isTold);
      }
      if (found.length > before + 1) keepHeaviest(found, before);
    }
  }
}

/** Readings that weigh nearly as much as the heaviest are as good as it. */
const NEARLY = 0.85;

/** Several readings of one place: the heaviest. Where others are as good, none is sure. */
function keepHeaviest(found: Weighed[], from: number): void {
  const readings = found.splice(from);
  const heaviest = Math.max(...readings.map(({ weight }) => weight));
  const rivals = readings.filter(({ weight }) => weight >= heaviest * NEARLY).length - 1;
  const best = readings.find(({ weight }) => weight === heaviest);
  if (best) found.push({ ...best, doubtful: best.doubtful || rivals > 0 });
}

/**
 * Types that the first one or two columns may have: such that they fill `left` bytes, and else usual ones. `tail`: the lower
 * half of the last of them, or negative where they are of one byte each.
 */
function firstTypes(fit: TableFit, lost: number, left: number, tail: number): number[][] {
  const all: number[][] = [];
  const fits = (type: number, place: number) =>
    tail >= 0 && place === lost - 1 ? type >= 128 && type < 16_384 && type % 128 === tail : type < 128;
  const usual = Array.from({ length: lost }, (_, place) => fit.typesOf(place, null).filter((type) => fits(type, place)));
  const add = (first: number[]) => {
    if (all.length < MAX_READINGS && !all.some((one) => one.every((type, place) => type === first[place]))) all.push(first);
  };
  // Of an index only what fills its block is believed: it has few columns, and many entries lie in a row.
  if (fit.indexOf && left < 0) return all;
  if (lost === 1) {
    if (left >= 0) for (const type of fit.typesOf(0, left)) if (fits(type, 0)) add([type]);
    if (!fit.indexOf) for (const type of usual[0]) add([type]);
    return all;
  }
  for (const one of usual[0]) {
    const rest = left - serialBytes(one);
    if (rest >= 0) for (const two of fit.typesOf(1, rest)) if (fits(two, 1)) add([one, two]);
  }
  if (!fit.indexOf) for (const one of usual[0]) for (const two of usual[1]) add([one, two]);
  return all;
}

/** A reading of a headless cell: do its sizes agree with each other? */
function consider(
  bytes: Uint8Array,
  at: number,
  head: number,
  body: number,
  size: number,
  gap: Gap,
  fit: TableFit,
  looking: Looking,
  found: Weighed[],
  doubtful: boolean,
): boolean {
  const { form } = looking;
  const keyed = fit.table.withoutRowid;
  const headerBytes = body - (at + head);
  const allBytes = bodyBytes(types);
  const payload = headerBytes + allBytes;
  if (payload > MAX_PAYLOAD) return false;
  const lengthBytes = varintSize(payload);
  const rowidBytes = head - lengthBytes;
  if (keyed ? rowidBytes !== 0 : rowidBytes < 1 || rowidBytes > 9) return false;
  // Row ids do not grow much beyond those that are known.
  if (!keyed && fit.largestRowid > 0 && rowidBytes > varintSize(fit.largestRowid * 2)) return false;
  const local = localBytes(payload, !keyed, form.usable);
  const end = Math.max(at + head + local + (local < payload ? 4 : 0), at + 4);
  const exact = end === at + size;
  const there = Math.min(end, gap.to);
  const cut = end > gap.to;
  // A block that is too short for its row was given away from its end on; one that is longer holds more rows behind it.
  if (cut && (there <= body || fit.score(types) < LEAST.cut || fit.width < 4)) return false;
  const row = rowOf(bytes, fit, at, there, body, allBytes, local - headerBytes, local < payload, gap);
  const likely = row ? likeness(bytes, row, looking.encoding, cut ? LEAST_VALUES.cut : LEAST_VALUES.headLost, 0) : 0;
  if (!row || likely === 0) return false;
  const worth = (there - at) * (cut ? 0.4 : exact ? 0.95 : 0.8) * likely * nearness(fit, looking);
  found.push({ ...row, how: cut ? "cut" : "head lost", doubtful, weight: worth, loose: head < 4 && !exact });
  return true;
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
