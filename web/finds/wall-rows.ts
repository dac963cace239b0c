import type { FindGroup } from "../../core/finds/find-query.ts";

/** Things of one group that stand together, under the group's name. */
export interface Block {
  readonly group: FindGroup["of"];
  readonly from: number;
  readonly to: number;
}

/** Rows of the wall: headings and lines of tiles, groups of few things side by side, or lines of the list. Positions count finds of the answer. */
export type WallRow =
  | { readonly type: "heading"; readonly group: FindGroup["of"]; readonly count: number }
  | { readonly type: "finds"; readonly from: number; readonly to: number }
  | { readonly type: "blocks"; readonly blocks: readonly Block[]; readonly from: number; readonly to: number };

/** Groups of no more things than this stand side by side: a row for each would leave most of the wall empty. */
const FEW = 2;

/** Lays out an answer in lines of `columns`, each group under its heading. A wall of 200,000 finds is only numbers here. */
export function layRows(total: number, groups: readonly FindGroup[] | null, columns: number): WallRow[] {
  const rows: WallRow[] = [];
  let at = 0;
  const lines = (count: number) => {
    for (const end = at + count; at < end; ) {
      const to = Math.min(end, at + columns);
      rows.push({ type: "finds", from: at, to });
      at = to;
    }
  };
  const under = ({ of, count }: FindGroup) => {
    rows.push({ type: "heading", group: of, count });
    lines(count);
  };
  let few: FindGroup[] = [];
  const sideBySide = () => {
    if (few.length === 1) under(few[0]);
    else if (few.length > 1) {
      const from = at;
      const blocks = few.map(({ of, count }) => {
        at += count;
        return { group: of, from: at - count, to: at };
      });
      rows.push({ type: "blocks", blocks, from, to: at });
    }
    few = [];
  };
  if (!groups) lines(total);
  for (const group of groups ?? []) {
    const taken = few.reduce((sum, { count }) => sum + count, 0);
    if (group.count > FEW || taken + group.count > columns) sideBySide();
    if (group.count > FEW || columns === 1) under(group);
    else few.push(group);
  }
  sideBySide();
  return rows;
}

/** The row that holds a place of the answer, by its index; -1: none does. */
export const rowAt = (rows: readonly WallRow[], place: number): number =>
  rows.findIndex((row) => row.type !== "heading" && row.from <= place && place < row.to);

/** The place that lies `by` rows below (above, where it is negative) and as far to the right, or as near to it as there is one. */
export function placeBelow(rows: readonly WallRow[], place: number, by: number): number {
  const start = rowAt(rows, place);
  const own = rows[start];
  if (!own || own.type === "heading") return place;
  const way = Math.sign(by);
  let found = own;
  for (let index = start + way, left = Math.abs(by); left > 0 && index >= 0 && index < rows.length; index += way) {
    const row = rows[index];
    if (row.type === "heading") continue;
    found = row;
    left--;
  }
  return Math.min(found.to - 1, found.from + (place - own.from));
}
