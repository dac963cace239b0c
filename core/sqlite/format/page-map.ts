import { readCell } from "./cell.ts";
import { DatabaseHeader, Freeblock, isBtreeType, PageType } from "./layout.ts";
import { btreePage, cellAt, cellEnd, gapsOf, type PageForm } from "./page.ts";

/** What a stretch of a page is. */
export type StretchKind = "database header" | "page header" | "cell pointers" | "cell" | "freed" | "unallocated" | "content";

/** A stretch of a page, offsets from its first byte, end exclusive. */
export interface PageStretch {
  readonly from: number;
  readonly to: number;
  readonly kind: StretchKind;
}

export interface PageMap {
  /** In plain words: "leaf of a table" and the like. */
  readonly type: string;
  readonly cells: number;
  readonly stretches: readonly PageStretch[];
}

const TYPES: Record<number, string> = {
  [PageType.tableLeaf]: "leaf of a table",
  [PageType.tableInterior]: "inner page of a table",
  [PageType.indexLeaf]: "leaf of an index",
  [PageType.indexInterior]: "inner page of an index",
};

/**
 * Where a row that begins at `at` ends in its page, as far as that can be told from there: by its own head, else by the free block
 * that was written over it.
 */
export function rowEnd(bytes: Uint8Array, at: number, form: PageForm): number {
  const asLeaf = { type: PageType.tableLeaf, header: 0, cells: 0, pointers: 8, pointersEnd: 8, contentStart: 8, isLeaf: true } as const;
  const whole = readCell(bytes, asLeaf, at, form);
  if (whole) return whole.end;
  const freed = at + 4 <= bytes.length ? at + Freeblock.bytes(bytes, at) : 0;
  return freed > at && freed <= form.usable ? freed : Math.min(at + UNKNOWN_LENGTH, bytes.length);
}

/** Bytes that are shown of a row whose end cannot be told. */
const UNKNOWN_LENGTH = 64;

/** How a page is made up: for people who want to see where a row was read. Never fails: what is no b-tree page is content. */
export function mapPage(bytes: Uint8Array, form: PageForm, isFirst: boolean): PageMap {
  const start = isFirst ? DatabaseHeader.size : 0;
  const page = isBtreeType(bytes[start]) ? btreePage(bytes, form, start) : null;
  if (!page) return { type: "overflow, free or broken page", cells: 0, stretches: [{ from: 0, to: bytes.length, kind: "content" }] };
  const stretches: PageStretch[] = [];
  if (isFirst) stretches.push({ from: 0, to: start, kind: "database header" });
  stretches.push({ from: start, to: page.pointers, kind: "page header" });
  if (page.cells > 0) stretches.push({ from: page.pointers, to: page.pointersEnd, kind: "cell pointers" });
  for (let index = 0; index < page.cells; index++) {
    const at = cellAt(bytes, page, index, form);
    const end = at > 0 ? cellEnd(bytes, at, page, form) : 0;
    if (end > 0) stretches.push({ from: at, to: end, kind: "cell" });
  }
  for (const { from, to, unallocated } of gapsOf(bytes, page, form, 1))
    stretches.push({ from, to, kind: unallocated ? "unallocated" : "freed" });
  return { type: TYPES[page.type], cells: page.cells, stretches: stretches.sort((a, b) => a.from - b.from) };
}
