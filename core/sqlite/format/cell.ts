import { PageType } from "./layout.ts";
import { type BtreePage, cellAt, cellEnd, localBytes, type PageForm, u32 } from "./page.ts";
import { bodyBytes, readTypes } from "./record.ts";
import { rowidAt, varintLength, varintNumber } from "./varint.ts";

/** A cell as a row of a table, before anything is known of the table. Offsets count from the first byte of its page. */
export interface Cell {
  readonly start: number;
  readonly end: number;
  readonly rowid: number | bigint | null;
  readonly types: number[];
  readonly body: number;
  readonly local: number;
  readonly bodyBytes: number;
  readonly overflow: number;
}

/** Where a cell's parts lie, before its types are read: for rows that are there, of which there may be millions. */
export interface CellPlaces {
  rowid: number | bigint | null;
  /** Where its types begin, and where they end and its values begin. */
  header: number;
  body: number;
  /** Bytes of its values that lie in the page. */
  local: number;
  /** Bytes of all its values. */
  bodyBytes: number;
  /** It goes on in overflow pages. */
  spills: boolean;
}

export const noPlaces = (): CellPlaces => ({ rowid: null, header: 0, body: 0, local: 0, bodyBytes: 0, spills: false });

/** Fills in where the parts of a cell lie. @returns false for what is no sound cell */
export function placeCell(bytes: Uint8Array, page: BtreePage, at: number, form: PageForm, into: CellPlaces): boolean {
  const isTable = page.type === PageType.tableLeaf;
  let place = page.isLeaf ? at : at + 4;
  const lengthBytes = varintLength(bytes, place, form.usable);
  if (lengthBytes === 0) return false;
  const payload = varintNumber(bytes, place, lengthBytes);
  place += lengthBytes;
  into.rowid = null;
  if (isTable) {
    const rowidBytes = varintLength(bytes, place, form.usable);
    if (rowidBytes === 0) return false;
    into.rowid = rowidAt(bytes, place, rowidBytes);
    place += rowidBytes;
  }
  const sizeBytes = varintLength(bytes, place, form.usable);
  if (sizeBytes === 0) return false;
  const headerBytes = varintNumber(bytes, place, sizeBytes);
  const local = localBytes(payload, isTable, form.usable);
  if (headerBytes < sizeBytes || headerBytes > local || place + local > form.usable) return false;
  into.header = place + sizeBytes;
  into.body = place + headerBytes;
  into.local = local - headerBytes;
  into.bodyBytes = payload - headerBytes;
  into.spills = local < payload;
  return true;
}

/** The cell that is read now: what is found of it is copied out. */
const places = noPlaces();

/** Reads one cell of a table leaf, or of an index page as a row of a table without row id. Null: it is no sound one. */
export function readCell(bytes: Uint8Array, page: BtreePage, at: number, form: PageForm): Cell | null {
  if (page.type === PageType.tableInterior) return null;
  const end = cellEnd(bytes, at, page, form);
  if (end === 0 || !placeCell(bytes, page, at, form, places)) return null;
  const { rowid, header, body, local, spills } = places;
  const types: number[] = [];
  if (!readTypes(bytes, header, body, types) || bodyBytes(types) !== places.bodyBytes) return null;
  return { start: at, end, rowid, types, body, local, bodyBytes: places.bodyBytes, overflow: spills ? u32(bytes, body + local) : 0 };
}

/** The sound cells of a page, in the order of its pointers. */
export function* cellsOf(bytes: Uint8Array, page: BtreePage, form: PageForm): Generator<Cell> {
  for (let index = 0; index < page.cells; index++) {
    const at = cellAt(bytes, page, index, form);
    const cell = at > 0 ? readCell(bytes, page, at, form) : null;
    if (cell) yield cell;
  }
}
