import { cellsOf } from "../format/cell.ts";
import type { BtreePage, PageForm } from "../format/page.ts";
import type { Shapes, TableFit } from "./fit.ts";

/** Least score of a cell that a page's own pointers lead to. */
export const LEAST_CELL = 0.25;
/** Cells that decide whose page it is. */
const VOTERS = 12;

/** Least score of a page's cells, and least width, for a table of another database to be the one that it is of: many are of a few texts. */
const STRICT = { score: 0.75, width: 8 };

/** Whose page is it? Its cells decide, by what most of them fit. `strict`: nothing but its look says that such a table is in this database. */
export function ownerByCells(
  bytes: Uint8Array,
  page: BtreePage,
  form: PageForm,
  shapes: Shapes,
  keyed: boolean,
  strict = false,
): TableFit | null {
  const least = strict ? STRICT.score : LEAST_CELL;
  const votes = new Map<TableFit, number>();
  let voters = 0;
  for (const cell of cellsOf(bytes, page, form)) {
    if (++voters > VOTERS) break;
    for (const fit of shapes.ofWidth(cell.types.length, keyed)) {
      if (strict && (fit.width !== cell.types.length || fit.width < STRICT.width)) continue;
      const score = fit.score(cell.types);
      if (score >= least)
        votes.set(fit, (votes.get(fit) ?? 0) + score + (fit.own ? 0.02 : 0) + (fit.width === cell.types.length ? 0.02 : 0));
    }
  }
  let best: TableFit | null = null;
  for (const [fit, points] of votes) if (points > (best ? (votes.get(best) ?? 0) : Math.min(voters, VOTERS) * least)) best = fit;
  return best;
}
