import { NO_DAY } from "./facet-counts.ts";
import { KINDS } from "./find.ts";
import { placesOf } from "./find-class.ts";
import type { FindColumns, Names } from "./find-columns.ts";
import { NAMELESS } from "./find-orders.ts";
import type { FindGroup, Query } from "./find-query.ts";
import type { FolderTable } from "./folder-table.ts";

/** What rows are gathered by: a number of each, in which order these stand (null: the rows stand so already), and what they are called. */
export interface Grouping {
  readonly of: (row: number) => number;
  readonly compare: ((a: number, b: number) => number) | null;
  readonly name: (group: number) => FindGroup["of"];
}

const byName = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);

export function groupingBy(
  what: Exclude<Query["group"], "nothing">,
  columns: FindColumns,
  folders: FolderTable,
  cameras: Names<string | null>,
): Grouping {
  switch (what) {
    case "day":
      return { of: (row) => columns.day[row], compare: null, name: (day) => (day === NO_DAY ? null : day) };
    case "folder":
      return {
        of: (row) => columns.folder[row],
        compare: (a, b) => byName(folders.keyOf(a), folders.keyOf(b)),
        name: (folder) => folders.keyOf(folder),
      };
    case "camera":
      return {
        of: (row) => columns.camera[row],
        compare: (a, b) => byName(cameras.at(a) ?? NAMELESS, cameras.at(b) ?? NAMELESS),
        name: (camera) => cameras.at(camera),
      };
    case "kind":
      return { of: (row) => placesOf(columns.class[row]).kind, compare: (a, b) => a - b, name: (kind) => KINDS[kind] };
  }
}

/** Puts rows of one group together, groups in the order of `compare`, rows within each in the order they have. */
export function gathered(rows: Uint32Array, groupOf: (row: number) => number, compare: (a: number, b: number) => number): Uint32Array {
  const counts = new Map<number, number>();
  for (const row of rows) {
    const group = groupOf(row);
    counts.set(group, (counts.get(group) ?? 0) + 1);
  }
  const next = new Map<number, number>();
  let at = 0;
  for (const group of [...counts.keys()].sort(compare)) {
    next.set(group, at);
    at += counts.get(group) ?? 0;
  }
  const sorted = new Uint32Array(rows.length);
  for (const row of rows) {
    const group = groupOf(row);
    const place = next.get(group) ?? 0;
    sorted[place] = row;
    next.set(group, place + 1);
  }
  return sorted;
}

/** Neighbouring rows of one group: what they have in common, and how many there are. */
export function groupsOf(rows: Uint32Array, groupOf: (row: number) => number, nameOf: (group: number) => FindGroup["of"]): FindGroup[] {
  const groups: FindGroup[] = [];
  let from = 0;
  for (let at = 1; at <= rows.length; at++) {
    const group = groupOf(rows[from]);
    if (at < rows.length && groupOf(rows[at]) === group) continue;
    groups.push({ of: nameOf(group), count: at - from });
    from = at;
  }
  return groups;
}
