import type { PageImage } from "./database-files.ts";
import type { Shapes, TableFit } from "./fit.ts";
import type { FoundRow } from "./found-row.ts";
import { DatabaseHeader, PageType, Trunk } from "./layout.ts";
import { findInGap } from "./leftovers.ts";
import { type BtreePage, btreePage, cellAt, cellEnd, gapsOf, localBytes, type PageForm } from "./page.ts";
import { Role } from "./page-ledger.ts";
import type { Looking } from "./reading.ts";
import { bodyBytes, type Encoding, readTypes } from "./record.ts";
import { rowidAt, varintLength, varintNumber } from "./varint.ts";

/** What is known of a page before it is looked at. */
export interface PageContext {
  readonly shapes: Shapes;
  readonly form: PageForm;
  readonly encoding: Encoding;
  readonly image: PageImage;
  readonly role: Role;
  /** Whose page it is now, or null. */
  readonly owner: TableFit | null;
}

/** Least score of a cell that a page's own pointers lead to. */
const LEAST_CELL = 0.25;
/** Cells that decide whose page it is. */
const VOTERS = 12;

/** A cell as a row of a table, before anything is known of the table. Null: it is no sound cell. */
export interface Cell {
  readonly start: number;
  readonly end: number;
  readonly rowid: number | bigint | null;
  readonly types: number[];
  /** Where its types begin, and where they end and its values begin. */
  readonly header: number;
  readonly body: number;
  readonly local: number;
  readonly bodyBytes: number;
  readonly overflow: number;
}

/** Reads one cell of a table leaf, or of an index page as a row of a table without row id. */
export function readCell(bytes: Uint8Array, page: BtreePage, at: number, form: PageForm, types: number[] = []): Cell | null {
  const end = cellEnd(bytes, at, page, form);
  if (end === 0 || page.type === PageType.tableInterior) return null;
  const isTable = page.type === PageType.tableLeaf;
  let place = page.isLeaf ? at : at + 4;
  const lengthBytes = varintLength(bytes, place, end);
  const payload = varintNumber(bytes, place, lengthBytes);
  place += lengthBytes;
  let rowid: number | bigint | null = null;
  if (isTable) {
    const rowidBytes = varintLength(bytes, place, end);
    rowid = rowidAt(bytes, place, rowidBytes);
    place += rowidBytes;
  }
  const header = place;
  const sizeBytes = varintLength(bytes, place, end);
  if (sizeBytes === 0) return null;
  const headerBytes = varintNumber(bytes, place, sizeBytes);
  const local = localBytes(payload, isTable, form.usable);
  if (headerBytes < sizeBytes || headerBytes > local) return null;
  if (!readTypes(bytes, header + sizeBytes, header + headerBytes, types)) return null;
  const all = bodyBytes(types);
  if (headerBytes + all !== payload) return null;
  const pointer = header + local;
  return {
    start: at,
    end,
    rowid,
    types,
    header: header + sizeBytes,
    body: header + headerBytes,
    local: local - headerBytes,
    bodyBytes: all,
    overflow:
      local < payload ? ((bytes[pointer] << 24) | (bytes[pointer + 1] << 16) | (bytes[pointer + 2] << 8) | bytes[pointer + 3]) >>> 0 : 0,
  };
}

/** Where a cell's parts lie, before its types are read: for rows that are there, of which there may be millions. */
export interface CellPlaces {
  rowid: number | bigint | null;
  header: number;
  body: number;
  local: number;
  /** It goes on in overflow pages. */
  spills: boolean;
}

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
  into.spills = local < payload;
  return true;
}

/** Whose page is it? Its cells decide, by what most of them fit. */
export function ownerByCells(bytes: Uint8Array, page: BtreePage, form: PageForm, shapes: Shapes, keyed: boolean): TableFit | null {
  const votes = new Map<TableFit, number>();
  let voters = 0;
  for (let index = 0; index < page.cells && voters < VOTERS; index++) {
    const at = cellAt(bytes, page, index, form);
    const cell = at > 0 ? readCell(bytes, page, at, form) : null;
    if (!cell) continue;
    voters++;
    for (const fit of shapes.ofWidth(cell.types.length, keyed)) {
      const score = fit.score(cell.types);
      if (score >= LEAST_CELL)
        votes.set(fit, (votes.get(fit) ?? 0) + score + (fit.own ? 0.02 : 0) + (fit.width === cell.types.length ? 0.02 : 0));
    }
  }
  let best: TableFit | null = null;
  for (const [fit, points] of votes) if (points > (best ? (votes.get(best) ?? 0) : voters * LEAST_CELL)) best = fit;
  return best;
}

/** All rows of a page image that a reader of the database does not see. The same bytes give the same rows. */
export function examinePage(bytes: Uint8Array, context: PageContext): FoundRow[] {
  const { form, image, role, shapes, encoding } = context;
  const isLive = image.current && role === Role.tree;
  const page = btreePage(bytes, form, image.page === 1 ? DatabaseHeader.size : 0);
  const found: FoundRow[] = [];
  const looking: Looking = { shapes, form, encoding, owner: context.owner };
  if (!page || (image.current && role === Role.trunk)) {
    // A trunk is written over the beginning of the page that it was made of.
    const from = image.current && role === Role.trunk ? Math.min(form.usable, Trunk.size + 4 * Trunk.leaves(bytes, 0)) : 4;
    return isLive ? [] : findInGap(bytes, { from, to: form.usable, unallocated: true }, looking);
  }
  const keyed = page.type === PageType.indexLeaf || page.type === PageType.indexInterior;
  let { owner } = context;
  if (!isLive && page.type !== PageType.tableInterior) {
    // The page may have been another table's when this image of it was made.
    owner = ownerByCells(bytes, page, form, shapes, keyed) ?? owner;
    for (let index = 0; index < page.cells; index++) {
      const at = cellAt(bytes, page, index, form);
      const cell = at > 0 ? readCell(bytes, page, at, form) : null;
      const fit = cell && fitOf(cell, owner, shapes, keyed);
      if (cell && fit) found.push({ ...cell, fit, how: "cell", doubtful: false, unallocated: false });
    }
  }
  // What was freed among the cells was a cell of this page since it was begun anew: of its own table. Before the cells lies what
  // the page held when it was another's.
  const own = owner && (owner.table.withoutRowid ? keyed : page.type === PageType.tableLeaf) ? shapes.only(owner) : shapes;
  for (const gap of gapsOf(bytes, page, form)) {
    // Among the cells of an index that nothing is told of: its freed entries.
    if (isLive && !owner && !gap.unallocated) continue;
    for (const row of findInGap(bytes, gap, { ...looking, owner, shapes: gap.unallocated ? shapes : own })) found.push(row);
  }
  return found;
}

/** The table that a sound cell is of: the page's owner if it fits at all, else the best one. */
function fitOf(cell: Cell, owner: TableFit | null, shapes: Shapes, keyed: boolean): TableFit | null {
  return shapes.best(cell.types, keyed, owner, LEAST_CELL);
}
