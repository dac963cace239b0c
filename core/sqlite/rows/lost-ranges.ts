import type { TableFit } from "../tables/fit.ts";

/** Row ids whose pages are missing in a damaged table: whether a row of them was there or erased, nobody can tell. */
export class LostRanges {
  readonly #ranges = new Map<TableFit, { from: number; to: number }[]>();
  readonly #open = new Map<TableFit, { last: number; hole: boolean }>();

  /** The next page of a table in key order: its first and last row ids, or null where it is missing. */
  page(fit: TableFit, rowids: { readonly first: number; readonly last: number } | null): void {
    const before = this.#open.get(fit) ?? { last: Number.NEGATIVE_INFINITY, hole: false };
    if (rowids && before.hole) this.#add(fit, before.last, rowids.first);
    this.#open.set(fit, rowids ? { last: rowids.last, hole: false } : { last: before.last, hole: true });
  }

  #add(fit: TableFit, from: number, to: number): void {
    const ranges = this.#ranges.get(fit);
    if (ranges) ranges.push({ from, to });
    else this.#ranges.set(fit, [{ from, to }]);
  }

  /** May the page of this row be a missing one? `moved`: it lies where a page keeps what it once gave to others. */
  holds(fit: TableFit, rowid: number | bigint | null, moved: boolean): boolean {
    const open = this.#open.get(fit);
    if (rowid === null) return moved && (open?.hole === true || this.#ranges.has(fit));
    if (open?.hole && rowid > open.last) return true;
    return this.#ranges.get(fit)?.some(({ from, to }) => rowid > from && rowid < to) ?? false;
  }
}
