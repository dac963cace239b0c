/** Rows of the wall: headings and lines of tiles, or lines of the list. Positions count finds of the answer. */
export type WallRow =
  | { readonly type: "heading"; readonly day: number | null; readonly count: number }
  | { readonly type: "finds"; readonly from: number; readonly to: number };

type Group = { readonly day: number | null; readonly count: number };

/** Lays out an answer in lines of `columns`, each day under its heading. A wall of 200,000 finds is only numbers here. */
export function layRows(total: number, groups: readonly Group[] | null, columns: number): WallRow[] {
  const rows: WallRow[] = [];
  let at = 0;
  const lines = (count: number) => {
    for (const end = at + count; at < end; ) {
      const to = Math.min(end, at + columns);
      rows.push({ type: "finds", from: at, to });
      at = to;
    }
  };
  if (!groups) lines(total);
  for (const { day, count } of groups ?? []) {
    rows.push({ type: "heading", day, count });
    lines(count);
  }
  return rows;
}
