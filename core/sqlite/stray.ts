import type { PageImage } from "./files/database-files.ts";
import { Role } from "./files/page-ledger.ts";
import { ToldEncoding } from "./files/told-encoding.ts";
import { cellsOf, readCell } from "./format/cell.ts";
import { PageHeader, PageType } from "./format/layout.ts";
import { btreePage, cellAt, cellEnd, type PageForm } from "./format/page.ts";
import type { Encoding } from "./format/record.ts";
import type { Table } from "./format/schema.ts";
import { readValues } from "./format/values.ts";
import { examinePage } from "./free-space/examine-page.ts";
import { type Candidate, CandidateBook } from "./rows/candidates.ts";
import { evidenceOf, type Row } from "./rows/row.ts";
import { Shapes, TableFit } from "./tables/fit.ts";
import { ownerByCells } from "./tables/owner-by-cells.ts";

/** Page sizes that a page which lies about by itself may have, the usual ones first. */
const SIZES = [4096, 1024, 8192, 2048, 16_384, 32_768, 65_536, 512];
/** Bytes of the header of a leaf page. */
const LEAF_HEADER = 8;

/**
 * Is this a leaf page of a table, by itself, at `at` of `bytes`? Every cell must be sound, and the one that was written first
 * must end where the page does. @returns its size in bytes, or 0
 */
export function strayPageAt(bytes: Uint8Array, at: number): number {
  if (bytes[at] !== PageType.tableLeaf || at + LEAF_HEADER > bytes.length) return 0;
  const cells = PageHeader.cells(bytes, at);
  const start = PageHeader.contentStart(bytes, at) || 65_536;
  if (cells === 0 || start < LEAF_HEADER + 2 * cells || PageHeader.fragmentedBytes(bytes, at) > 60) return 0;
  for (const size of SIZES) {
    if (start >= size || at + size > bytes.length) continue;
    if (isWholePage(bytes.subarray(at, at + size), { pageSize: size, usable: size })) return size;
  }
  return 0;
}

function isWholePage(bytes: Uint8Array, form: PageForm): boolean {
  const page = btreePage(bytes, form);
  if (!page) return false;
  let last = 0;
  for (let index = 0; index < page.cells; index++) {
    const at = cellAt(bytes, page, index, form);
    const end = at >= page.contentStart ? cellEnd(bytes, at, page, form) : 0;
    if (end === 0 || !readCell(bytes, page, at, form)) return false;
    last = Math.max(last, end);
  }
  // What was written first may have been freed: but less than half of the page, else it is a smaller one.
  return last > form.usable / 2;
}

/** A page that lies about by itself, on a source. */
export interface StrayPage {
  /** Absolute byte offset. */
  readonly at: number;
  readonly bytes: Uint8Array;
}

/** The encoding of the texts in a page's cells. */
function encodingOf(bytes: Uint8Array, form: PageForm): Encoding {
  const told = new ToldEncoding();
  told.notePage(bytes, form);
  return told.encoding;
}

/** What is left of a book, by the place of the page that it lies in. */
function byPage(book: CandidateBook): Map<number, Candidate[]> {
  const pages = new Map<number, Candidate[]>();
  for (const one of [...book.groups()].flat()) {
    const rows = pages.get(one.image.at);
    if (rows) rows.push(one);
    else pages.set(one.image.at, [one]);
  }
  return pages;
}

/** Rows of pages that lie about by themselves, told apart by the shape of known tables. All of them count as erased. */
export class StrayRows {
  readonly #fits: TableFit[];
  #shapes: Shapes;
  readonly #book = new CandidateBook();
  /** Rows by the place of the page that speaks for them. */
  #witnesses: Map<number, Candidate[]> | null = null;

  constructor(tables: readonly Table[]) {
    this.#fits = tables.map((table, index) => new TableFit(table, index));
    this.#shapes = new Shapes(this.#fits);
  }

  /** Learns what the rows of a page's table look like: all pages are shown once before any is asked for its rows. */
  learn({ bytes }: StrayPage): void {
    const form = { pageSize: bytes.length, usable: bytes.length };
    const page = btreePage(bytes, form);
    const fit = page && ownerByCells(bytes, page, form, this.#shapes, false);
    if (!page || !fit) return;
    const encoding = encodingOf(bytes, form);
    for (const cell of cellsOf(bytes, page, form)) fit.learn(cell.types, cell.rowid, bytes, cell.body, cell.local, encoding);
  }

  /** Takes note of all rows of a page: of the same row in several pages one speaks for all. After learning, before asking. */
  gather({ bytes, at }: StrayPage): void {
    const image: PageImage = { page: 0, file: "main", at, current: false, age: 0, commit: 0, until: null };
    const form = { pageSize: bytes.length, usable: bytes.length };
    const encoding = encodingOf(bytes, form);
    for (const row of examinePage(bytes, { shapes: this.#shapes, form, encoding, image, role: Role.none, owner: null }))
      this.#book.add(row, bytes, image);
  }

  /** Rows that this page is the best witness of. */
  rowsOf({ bytes, at }: StrayPage): Row[] {
    this.#witnesses ??= byPage(this.#book);
    const encoding = encodingOf(bytes, { pageSize: bytes.length, usable: bytes.length });
    return (this.#witnesses.get(at) ?? []).map((one) => {
      const { values, complete } = readValues(one.fit.table, one.types, bytes, one.body, one.local, one.rowid, encoding);
      return {
        table: one.fit.table,
        state: "erased",
        condition: complete && !one.partial ? "whole" : "damaged",
        rowid: one.rowid,
        values,
        evidence: [evidenceOf(one)],
        versions: [],
      };
    });
  }

  /** After the last page was learned from: which tables may be as short as what was seen is known anew. */
  settle(): void {
    this.#shapes = new Shapes(this.#fits);
  }
}
