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
  classes: Uint32Array,
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
      return { of: (row) => placesOf(classes[columns.combination[row]]).kind, compare: (a, b) => a - b, name: (kind) => KINDS[kind] };
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

/**
 * Neighbouring rows of one group: what they have in common, and how many there are. Rows of a group stand together, so its end is found by ever larger
 * steps (Bentley and Yao, 1976): of a million rows few are looked at.
 */
export function groupsOf(rows: Uint32Array, groupOf: (row: number) => number, nameOf: (group: number) => FindGroup["of"]): FindGroup[] {
  const groups: FindGroup[] = [];
  for (let from = 0; from < rows.length; ) {
    const group = groupOf(rows[from]);
    let step = 1;
    while (from + step < rows.length && groupOf(rows[from + step]) === group) step *= 2;
    let [last, end] = [from + Math.floor(step / 2), Math.min(from + step, rows.length)];
    // The row at `last` is of it, or it is the first; the one at `end` is not.
    while (end - last > 1) {
      const middle = Math.floor((last + end) / 2);
      if (groupOf(rows[middle]) === group) last = middle;
      else end = middle;
    }
    groups.push({ of: nameOf(group), count: end - from });
    from = end;
  }
  return groups;
}
