import { DatabaseHeader, isBtreeType, PageHeader, PageType } from "./layout.ts";
import { varintLength, varintNumber } from "./varint.ts";

/** Numbers as all parts of the format hold them: page numbers, and offsets in a page. */
export const u32 = (bytes: Uint8Array, at: number): number =>
  ((bytes[at] << 24) | (bytes[at + 1] << 16) | (bytes[at + 2] << 8) | bytes[at + 3]) >>> 0;
const u16 = (bytes: Uint8Array, at: number): number => (bytes[at] << 8) | bytes[at + 1];

/** How a page of a database is cut up. All in bytes. */
export interface PageForm {
  readonly pageSize: number;
  /** Page size without the bytes that are reserved at the end of each page. */
  readonly usable: number;
}

/** A b-tree page whose header makes sense. Offsets count from the first byte of the page. */
export interface BtreePage {
  readonly type: number;
  /** Where its header begins: 100 on page 1, else 0. */
  readonly header: number;
  readonly cells: number;
  /** Where the cell pointers begin, and end. */
  readonly pointers: number;
  readonly pointersEnd: number;
  readonly contentStart: number;
  readonly isLeaf: boolean;
}

/** Reads the header of a b-tree page. @returns null for what is none */
export function btreePage(bytes: Uint8Array, form: PageForm, header = 0): BtreePage | null {
  const type = PageHeader.type(bytes, header);
  if (!isBtreeType(type)) return null;
  const isLeaf = type === PageType.tableLeaf || type === PageType.indexLeaf;
  const cells = PageHeader.cells(bytes, header);
  const pointers = header + (isLeaf ? 8 : 12);
  const pointersEnd = pointers + 2 * cells;
  // Zero stands for 65,536 on pages of that size.
  const contentStart = PageHeader.contentStart(bytes, header) || 65_536;
  if (contentStart > form.usable || pointersEnd > contentStart) return null;
  if (PageHeader.fragmentedBytes(bytes, header) > 60 && form.usable <= 512) return null;
  return { type, header, cells, pointers, pointersEnd, contentStart, isLeaf };
}

/** Where the header of a page lies: behind the database's own on the first one. */
export const headerAt = (page: number): number => (page === 1 ? DatabaseHeader.size : 0);

/** Offset of a cell, or 0 where its pointer leads nowhere. */
export function cellAt(bytes: Uint8Array, page: BtreePage, index: number, form: PageForm): number {
  const place = page.pointers + 2 * index;
  const at = u16(bytes, place);
  return at >= page.pointersEnd && at + 4 <= form.usable ? at : 0;
}

/** Page numbers of the children of an interior page, the right-most one last. */
export function childrenOf(bytes: Uint8Array, page: BtreePage, form: PageForm): number[] {
  const children: number[] = [];
  for (let index = 0; index < page.cells; index++) {
    const at = cellAt(bytes, page, index, form);
    if (at > 0) children.push(u32(bytes, at));
  }
  children.push(PageHeader.rightChild(bytes, page.header));
  return children;
}

/** Bytes of a payload that are kept in the page itself ("Database File Format" §1.6, the last paragraphs). */
export function localBytes(payload: number, isTable: boolean, usable: number): number {
  const most = isTable ? usable - 35 : Math.floor(((usable - 12) * 64) / 255) - 23;
  if (payload <= most) return payload;
  const least = Math.floor(((usable - 12) * 32) / 255) - 23;
  const rest = least + ((payload - least) % (usable - 4));
  return rest <= most ? rest : least;
}

/** Where a cell ends, or 0 where it is none. */
export function cellEnd(bytes: Uint8Array, at: number, page: BtreePage, form: PageForm): number {
  const { type } = page;
  const { usable } = form;
  let place = page.isLeaf ? at : at + 4;
  const length = bytes[place] < 0x80 && place < usable ? 1 : varintLength(bytes, place, usable);
  if (length === 0) return 0;
  if (type === PageType.tableInterior) return place + length;
  const payload = varintNumber(bytes, place, length);
  place += length;
  const isTable = type === PageType.tableLeaf;
  if (isTable) {
    const rowid = bytes[place] < 0x80 && place < usable ? 1 : varintLength(bytes, place, usable);
    if (rowid === 0) return 0;
    place += rowid;
  }
  const local = localBytes(payload, isTable, usable);
  const end = Math.max(place + local + (local < payload ? 4 : 0), at + 4);
  return end <= usable ? end : 0;
}

/** The same of a row that lies in its page: most do, and there may be millions. `most`: bytes of a payload that does. */
function rowEnd(bytes: Uint8Array, at: number, page: BtreePage, form: PageForm, most: number): number {
  let place = at + 1;
  let payload = bytes[at];
  if (payload >= 0x80) {
    const next = bytes[place++];
    if (next >= 0x80) return cellEnd(bytes, at, page, form);
    payload = ((payload & 0x7f) << 7) | next;
  }
  const longest = place + 8;
  while (place < longest && bytes[place] >= 0x80) place++;
  const end = place + 1 + payload;
  // What does not, or is none, is looked at again.
  return payload > most || place === longest || payload < 4 || end > form.usable ? cellEnd(bytes, at, page, form) : end;
}

/** A stretch of a page that no cell uses. */
export interface Gap {
  readonly from: number;
  readonly to: number;
  /** Between the cell pointers and the first cell, where no freed cell is kept account of. */
  readonly unallocated: boolean;
}

/** Cells of the page that is looked at, each as one number: where it begins, and where it ends. Used again for the next page. */
const CELL = 65_536 * 2;
let taken = new Float64Array(1024);

/** All that is free in a b-tree page: what its cells, pointers and header do not use. Too small for a row: left out. */
export function gapsOf(bytes: Uint8Array, page: BtreePage, form: PageForm, smallest = 8): Gap[] {
  if (taken.length < page.cells) taken = new Float64Array(page.cells * 2);
  const isTable = page.type === PageType.tableLeaf;
  const { usable } = form;
  const most = usable - 35;
  let count = 0;
  let inOrder = true;
  // Cells are written from the end of a page on: their pointers mostly lead downwards.
  for (let index = page.cells - 1; index >= 0; index--) {
    const at = cellAt(bytes, page, index, form);
    const end = at === 0 ? 0 : isTable ? rowEnd(bytes, at, page, form, most) : cellEnd(bytes, at, page, form);
    if (end === 0) continue;
    taken[count] = at * CELL + end;
    if (count > 0 && taken[count] < taken[count - 1]) inOrder = false;
    count++;
  }
  if (!inOrder) taken.subarray(0, count).sort();
  const gaps: Gap[] = [];
  let from = page.pointersEnd;
  for (let index = 0; index <= count; index++) {
    const at = index < count ? Math.floor(taken[index] / CELL) : form.usable;
    if (at - from >= smallest) addGap(gaps, from, at, page.contentStart, smallest);
    if (index < count) from = Math.max(from, taken[index] % CELL);
  }
  return gaps;
}

/** What lies before the content and behind its beginning are two stretches: freed cells begin where the content does. */
function addGap(gaps: Gap[], from: number, to: number, contentStart: number, smallest: number): void {
  if (from >= contentStart) gaps.push({ from, to, unallocated: false });
  else if (to <= contentStart) gaps.push({ from, to, unallocated: true });
  else {
    if (contentStart - from >= smallest) gaps.push({ from, to: contentStart, unallocated: true });
    if (to - contentStart >= smallest) gaps.push({ from: contentStart, to, unallocated: false });
  }
}
