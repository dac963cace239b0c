import { type Gap, localBytes } from "../format/page.ts";
import { serialBytes } from "../format/record.ts";
import { rowidAt, varintLength, varintNumber } from "../format/varint.ts";
import type { Shapes } from "../tables/fit.ts";
import { LEAST, LEAST_VALUES, type Looking, likeness, lyingAt, MAX_PAYLOAD, nearness, types, Weighed } from "./reading.ts";

/** Cells in free space that kept their head: payload length, row id and header agree. */

/** Bytes of a payload at least: a header of two bytes, and a value. */
export const LEAST_PAYLOAD = 3;

/** A cell with its head: payload length, row id and header agree. */
export function wholeCell(bytes: Uint8Array, at: number, gap: Gap, looking: Looking, found: Weighed[]): void {
  const { shapes } = looking;
  const lengthBytes = bytes[at] < 0x80 ? 1 : varintLength(bytes, at, gap.to);
  if (lengthBytes === 0 || lengthBytes > 4) return;
  const payload = varintNumber(bytes, at, lengthBytes);
  if (payload < LEAST_PAYLOAD || payload > MAX_PAYLOAD) return;
  const place = at + lengthBytes;
  if (shapes.rowid.length > 0) {
    const rowidBytes = bytes[place] < 0x80 ? 1 : varintLength(bytes, place, gap.to);
    if (rowidBytes > 0) {
      const header = place + rowidBytes;
      if (header < gap.to && headerAt(bytes, header, gap.to, payload, shapes))
        takeWhole(bytes, at, place, header, payload, gap, looking, false, found);
    }
  }
  if (shapes.keyed.length > 0 && place < gap.to && headerAt(bytes, place, gap.to, payload, shapes))
    takeWhole(bytes, at, place, place, payload, gap, looking, true, found);
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
  if (size < shapes.fewest || size > shapes.most || size > payload || header + size > to || !shapes.mayBegin(bytes[place])) return false;
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
  idAt: number,
  header: number,
  payload: number,
  gap: Gap,
  looking: Looking,
  keyed: boolean,
  found: Weighed[],
): void {
  const fit = looking.shapes.best(types, keyed, looking.owner, LEAST.exact);
  if (!fit) return;
  const local = localBytes(payload, !keyed, looking.form.usable);
  const end = Math.max(header + local + (local < payload ? 4 : 0), at + 4);
  const there = Math.min(end, gap.to);
  const cut = end > gap.to;
  const row = lyingAt(bytes, fit, at, there, bodyAt, payload - (bodyAt - header), local - (bodyAt - header), local < payload, gap);
  const likely = row ? likeness(bytes, row, looking.encoding, cut ? LEAST_VALUES.cut : LEAST_VALUES.exact, 1) : 0;
  if (!row || likely === 0) return;
  const rowid = keyed ? null : rowidAt(bytes, idAt, header - idAt);
  // Few and short values agree by chance now and then: what stands alone must say more.
  const worth = (there - at) * (cut ? 0.55 : 1) * likely * nearness(fit, looking);
  found.push(new Weighed(row, cut ? "cut" : "leftover", rowid, worth, false, false));
}
