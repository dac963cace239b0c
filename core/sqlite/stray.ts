import { CandidateBook } from "./candidates.ts";
import type { PageImage } from "./database-files.ts";
import { examinePage, ownerByCells, readCell } from "./examine-page.ts";
import { Shapes, TableFit } from "./fit.ts";
import type { FoundRow } from "./found-row.ts";
import { PageHeader, PageType } from "./layout.ts";
import { btreePage, cellAt, cellEnd, type PageForm } from "./page.ts";
import { Role } from "./page-ledger.ts";
import { type Encoding, serialBytes } from "./record.ts";
import type { Row } from "./row.ts";
import type { Table } from "./schema.ts";
import { looksLikeText } from "./text.ts";
import { readValues } from "./values.ts";

/** Page sizes that a page which lies about by itself may have, the usual ones first. */
const SIZES = [4096, 1024, 8192, 2048, 16_384, 32_768, 65_536, 512];
/** Bytes that tell enough: a header, some cell pointers. */
export const STRAY_HEAD = 8;

/**
 * Is this a leaf page of a table, by itself, at `at` of `bytes`? Every cell must be sound, and the one that was written first
 * must end where the page does. @returns its size in bytes, or 0
 */
export function strayPageAt(bytes: Uint8Array, at: number): number {
  if (bytes[at] !== PageType.tableLeaf || at + STRAY_HEAD > bytes.length) return 0;
  const cells = PageHeader.cells(bytes, at);
  const start = PageHeader.contentStart(bytes, at) || 65_536;
  if (cells === 0 || start < 8 + 2 * cells || PageHeader.fragmentedBytes(bytes, at) > 60) return 0;
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

const ENCODINGS: readonly Encoding[] = ["utf-8", "utf-16le", "utf-16be"];

/** The encoding in which all texts of a page's cells read as texts. */
function encodingOf(bytes: Uint8Array, form: PageForm): Encoding {
  const page = btreePage(bytes, form);
  if (!page) return "utf-8";
  const reads = (encoding: Encoding) => {
    for (let index = 0; index < page.cells; index++) {
      const cell = readCell(bytes, page, cellAt(bytes, page, index, form), form);
      if (!cell) continue;
      let at = cell.body;
      for (const type of cell.types) {
        const length = serialBytes(type);
        const end = Math.min(at + length, cell.body + cell.local);
        if (type >= 13 && type & 1 && !looksLikeText(bytes, at, end, end < at + length, encoding)) return false;
        at += length;
      }
    }
    return true;
  };
  return ENCODINGS.find(reads) ?? "utf-8";
}

const imageOf = ({ at }: StrayPage): PageImage => ({ page: 0, file: "main", at, current: false, age: 0 });

/** Rows of pages that lie about by themselves, told apart by the shape of known tables. All of them count as erased. */
export class StrayRows {
  readonly #fits: TableFit[];
  #shapes: Shapes;
  readonly #book = new CandidateBook();
  #witnesses: ReadonlySet<number> | null = null;

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
    for (let index = 0; index < page.cells; index++) {
      const cell = readCell(bytes, page, cellAt(bytes, page, index, form), form);
      if (cell) fit.learn(cell.types, cell.rowid, bytes, cell.body, cell.local, encoding);
    }
  }

  /** Takes note of all rows of a page: of the same row in several pages one speaks for all. After learning, before asking. */
  gather(page: StrayPage): void {
    for (const row of this.#examine(page)) this.#book.add(row, page.bytes, imageOf(page));
  }

  #examine({ bytes, at }: StrayPage): FoundRow[] {
    const form = { pageSize: bytes.length, usable: bytes.length };
    return examinePage(bytes, {
      shapes: this.#shapes,
      form,
      encoding: encodingOf(bytes, form),
      image: imageOf({ bytes, at }),
      role: Role.none,
      owner: null,
    });
  }

  /** Rows that this page is the best witness of. */
  rowsOf(page: StrayPage): Row[] {
    const { bytes, at } = page;
    const encoding = encodingOf(bytes, { pageSize: bytes.length, usable: bytes.length });
    this.#witnesses ??= new Set([...this.#book.groups()].flat().map(({ image, start }) => image.at + start));
    const witnesses = this.#witnesses;
    return this.#examine(page)
      .filter(({ start }) => witnesses.has(at + start))
      .map((row) => {
        const { values, complete } = readValues(row.fit.table, row.types, bytes, row.body, row.local, row.rowid, encoding);
        return {
          table: row.fit.table,
          state: "erased",
          condition: complete && row.how !== "cut" && !row.doubtful ? "whole" : "damaged",
          rowid: row.rowid,
          values,
          evidence: [{ what: "stray page", file: "main", page: 0, at: at + row.start }],
          versions: [],
        };
      });
  }

  /** After the last page was learned from: which tables may be as short as what was seen is known anew. */
  settle(): void {
    this.#shapes = new Shapes(this.#fits);
  }
}
