import type { PageImage } from "../files/database-files.ts";
import { Role } from "../files/page-ledger.ts";
import { cellsOf } from "../format/cell.ts";
import { PageType, Trunk } from "../format/layout.ts";
import { btreePage, gapsOf, headerAt, type PageForm } from "../format/page.ts";
import type { Encoding } from "../format/record.ts";
import type { Shapes, TableFit } from "../tables/fit.ts";
import { LEAST_CELL, ownerByCells } from "../tables/owner-by-cells.ts";
import type { FoundRow } from "./found-row.ts";
import { findInGap } from "./leftovers.ts";
import type { Looking, Weighed } from "./reading.ts";

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

/** Notes of rows that only their look tells of which of several tables of one shape they are. */
function noted(rows: Weighed[], unsure: boolean): Weighed[] {
  if (unsure) for (const row of rows) if (row.fit.alike.length > 1) row.unsure = true;
  return rows;
}

/** All rows of a page image that a reader of the database does not see. The same bytes give the same rows. */
export function examinePage(bytes: Uint8Array, context: PageContext): FoundRow[] {
  const { form, image, role, shapes, encoding } = context;
  const isLive = image.current && role === Role.tree;
  const page = btreePage(bytes, form, headerAt(image.page));
  const found: FoundRow[] = [];
  const looking: Looking = { shapes, form, encoding, owner: context.owner };
  if (!page || (image.current && role === Role.trunk)) {
    // A trunk is written over the beginning of the page that it was made of.
    const from = image.current && role === Role.trunk ? Math.min(form.usable, Trunk.size + 4 * Trunk.leaves(bytes, 0)) : 4;
    return isLive ? [] : noted(findInGap(bytes, { from, to: form.usable, unallocated: true }, looking), true);
  }
  /** The page is a table's by what leads to it, and this image of it is of its time: only what it held when it was another's is not that table's. */
  const isOwners = isLive && context.owner !== null;
  const keyed = page.type === PageType.indexLeaf || page.type === PageType.indexInterior;
  let { owner } = context;
  if (!isLive && page.type !== PageType.tableInterior) {
    // The page may have been another table's when this image of it was made.
    owner = ownerByCells(bytes, page, form, shapes, keyed) ?? owner;
    for (const cell of cellsOf(bytes, page, form)) {
      // The table that it is of: the page's owner if it fits at all, else the best one.
      const fit = shapes.best(cell.types, keyed, owner, LEAST_CELL);
      if (!fit) continue;
      const { start, end, rowid, types, body, local, bodyBytes, overflow } = cell;
      const unsure = fit.alike.length > 1 && fit !== context.owner;
      // Not spread: a property at a time is slow for millions.
      found.push({
        fit,
        how: "cell",
        start,
        end,
        rowid,
        types,
        body,
        local,
        bodyBytes,
        overflow,
        doubtful: false,
        unallocated: false,
        unsure,
      });
    }
  }
  // What was freed among the cells was a cell of this page since it was begun anew: of its own table. Before the cells lies what
  // the page held when it was another's.
  const own = owner && (owner.table.withoutRowid ? keyed : page.type === PageType.tableLeaf) ? shapes.only(owner) : shapes;
  for (const gap of gapsOf(bytes, page, form)) {
    // Among the cells of an index that nothing is told of: its freed entries.
    if (isLive && !owner && !gap.unallocated) continue;
    const rows = findInGap(bytes, gap, { ...looking, owner, shapes: gap.unallocated ? shapes : own });
    for (const row of noted(rows, gap.unallocated || !isOwners)) found.push(row);
  }
  return found;
}
