import type { FindColumns } from "./find-columns.ts";
import type { Query } from "./find-query.ts";

/** Sorts behind every name. */
export const NAMELESS = "\uffff";

/** How two rows stand to each other in an order. What is alike in it stands as it came. */
export function comparing(sort: Query["sort"], columns: FindColumns, names: readonly string[]): (a: number, b: number) => number {
  const { time, size, start, seconds } = columns;
  switch (sort) {
    case "newest":
      return (a, b) => (time[b] === time[a] ? a - b : time[b] > time[a] ? 1 : -1);
    case "oldest":
      return (a, b) => (time[b] === time[a] ? a - b : time[a] > time[b] ? 1 : -1);
    case "largest":
      return (a, b) => size[b] - size[a] || a - b;
    case "longest":
      return (a, b) => seconds[b] - seconds[a] || a - b;
    case "place":
      return (a, b) => start[a] - start[b] || a - b;
    case "name":
      return (a, b) => (names[a] < names[b] ? -1 : names[a] > names[b] ? 1 : a - b);
  }
}

/** Part of all rows that changed from which on an order is made anew rather than mended. */
const MANY = 1 / 4;

/**
 * All rows in each order that was asked for. Sorting 200,000 takes longer than filtering them, so an order is kept, and what changed since is
 * sorted alone and merged into it.
 */
export class FindOrders<Sort extends string> {
  readonly #comparing: (sort: Sort) => (a: number, b: number) => number;
  readonly #orders = new Map<Sort, { rows: Uint32Array; touched: Set<number> }>();

  constructor(comparing: (sort: Sort) => (a: number, b: number) => number) {
    this.#comparing = comparing;
  }

  /** A row came, or what it is sorted by changed. */
  touch(row: number): void {
    for (const { touched } of this.#orders.values()) touched.add(row);
  }

  /** All rows, 0 to `length`, in an order. */
  of(sort: Sort, length: number): Uint32Array {
    const known = this.#orders.get(sort);
    if (known && known.touched.size === 0) return known.rows;
    const compare = this.#comparing(sort);
    const rows =
      known && known.touched.size < length * MANY
        ? merged(known.rows, known.touched, length, compare)
        : Uint32Array.from({ length }, (_, row) => row).sort(compare);
    this.#orders.set(sort, { rows, touched: new Set() });
    return rows;
  }
}

function merged(old: Uint32Array, touched: ReadonlySet<number>, length: number, compare: (a: number, b: number) => number): Uint32Array {
  const fresh = Uint32Array.from(touched).sort(compare);
  const rows = new Uint32Array(length);
  const isTouched = new Uint8Array(length);
  for (const row of fresh) isTouched[row] = 1;
  let next = 0;
  let at = 0;
  for (const row of old) {
    if (isTouched[row] === 1) continue;
    while (next < fresh.length && compare(fresh[next], row) < 0) rows[at++] = fresh[next++];
    rows[at++] = row;
  }
  while (next < fresh.length) rows[at++] = fresh[next++];
  return rows;
}
