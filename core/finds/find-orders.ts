import type { FindColumns } from "./find-columns.ts";
import type { Query } from "./find-query.ts";
import { sortByNumbers } from "./radix.ts";

/** Sorts behind every name. */
export const NAMELESS = "\uffff";

/** What rows are sorted by: a number or a text of each. What is alike in it stands as it came. */
export type Ordering = { readonly numbers: Float64Array; readonly descending: boolean } | { readonly texts: readonly string[] };

export function orderingBy(sort: Query["sort"], columns: FindColumns, names: readonly string[]): Ordering {
  switch (sort) {
    case "newest":
      return { numbers: columns.time, descending: true };
    case "oldest":
      return { numbers: columns.time, descending: false };
    case "largest":
      return { numbers: columns.size, descending: true };
    case "longest":
      return { numbers: columns.seconds, descending: true };
    case "place":
      return { numbers: columns.start, descending: false };
    case "name":
      return { texts: names };
  }
}

function sortBy(rows: Uint32Array, ordering: Ordering): Uint32Array {
  if ("numbers" in ordering) {
    sortByNumbers(rows, ordering.numbers, ordering.descending);
    return rows;
  }
  const { texts } = ordering;
  return rows.sort((a, b) => (texts[a] < texts[b] ? -1 : texts[a] > texts[b] ? 1 : a - b));
}

/** Does a row stand before another? */
function before(ordering: Ordering): (a: number, b: number) => boolean {
  if ("texts" in ordering) {
    const { texts } = ordering;
    return (a, b) => texts[a] < texts[b] || (texts[a] === texts[b] && a < b);
  }
  const { numbers, descending } = ordering;
  if (descending) return (a, b) => numbers[a] > numbers[b] || (numbers[a] === numbers[b] && a < b);
  return (a, b) => numbers[a] < numbers[b] || (numbers[a] === numbers[b] && a < b);
}

/** Part of all rows that changed from which on an order is made anew rather than mended. */
const MANY = 1 / 4;
const FEWEST = 1000;
/** Part of all rows that pass up to which they are sorted by themselves rather than picked out of the order. */
const FEW = 1 / 32;

/**
 * All rows in each order that was asked for. Sorting them takes longer than filtering them, so an order is kept, and what changed since is sorted
 * alone and put in between.
 */
export class FindOrders<Sort extends string> {
  readonly #orderingBy: (sort: Sort) => Ordering;
  readonly #orders = new Map<Sort, { rows: Uint32Array; touched: Set<number> }>();

  constructor(orderingBy: (sort: Sort) => Ordering) {
    this.#orderingBy = orderingBy;
  }

  /** A row came, or what it is sorted by changed. */
  touch(row: number): void {
    for (const [sort, { rows, touched }] of this.#orders) {
      touched.add(row);
      // It would be made anew: until then nothing is noted for it.
      if (touched.size > Math.max(FEWEST, rows.length * MANY)) this.#orders.delete(sort);
    }
  }

  /**
   * The rows that pass, in an order.
   * @param passed 1 for each of the first `length` rows that does
   * @param passing how many do
   * @returns not to be changed: it may be the order itself
   */
  passing(sort: Sort, length: number, passed: Uint8Array, passing: number): Uint32Array {
    if (passing < length * FEW) return sortBy(gatheredUp(passed, passing), this.#orderingBy(sort));
    const order = this.#of(sort, length);
    return passing === length ? order : picked(order, passed, passing);
  }

  /** All rows, 0 to `length`, in an order. */
  #of(sort: Sort, length: number): Uint32Array {
    const known = this.#orders.get(sort);
    if (known && known.touched.size === 0) return known.rows;
    const ordering = this.#orderingBy(sort);
    const rows = known
      ? mended(known.rows, known.touched, length, ordering)
      : sortBy(
          Uint32Array.from({ length }, (_, row) => row),
          ordering,
        );
    this.#orders.set(sort, { rows, touched: new Set() });
    return rows;
  }
}

/** The rows that pass, in their order. */
function picked(order: Uint32Array, passed: Uint8Array, passing: number): Uint32Array {
  const rows = new Uint32Array(passing);
  let found = 0;
  for (let at = 0; at < order.length; at++) if (passed[order[at]] === 1) rows[found++] = order[at];
  return rows;
}

/** The rows that pass, as they came. */
function gatheredUp(passed: Uint8Array, passing: number): Uint32Array {
  const rows = new Uint32Array(passing);
  let found = 0;
  for (let row = passed.indexOf(1); row >= 0 && found < passing; row = passed.indexOf(1, row + 1)) rows[found++] = row;
  return rows;
}

/** An order with the rows that changed put where they belong now. What lies between two of them is taken over in one piece. */
function mended(old: Uint32Array, touched: ReadonlySet<number>, length: number, ordering: Ordering): Uint32Array {
  const standing = withoutThose(old, touched);
  const fresh = sortBy(Uint32Array.from(touched).sort(), ordering);
  const isBefore = before(ordering);
  const rows = new Uint32Array(length);
  let taken = 0;
  let at = 0;
  for (const row of fresh) {
    const until = firstBehind(standing, row, taken, isBefore);
    rows.set(standing.subarray(taken, until), at);
    at += until - taken;
    taken = until;
    rows[at++] = row;
  }
  rows.set(standing.subarray(taken), at);
  return rows;
}

/** Rows that only came stand nowhere yet: then there is nothing to take out. */
function withoutThose(old: Uint32Array, touched: ReadonlySet<number>): Uint32Array {
  const isTouched = new Uint8Array(old.length);
  let count = 0;
  for (const row of touched)
    if (row < old.length) {
      isTouched[row] = 1;
      count++;
    }
  if (count === 0) return old;
  const standing = new Uint32Array(old.length - count);
  let at = 0;
  for (const row of old) if (isTouched[row] === 0) standing[at++] = row;
  return standing;
}

/** The first place from `from` on whose row does not stand before this one. */
function firstBehind(rows: Uint32Array, row: number, from: number, isBefore: (a: number, b: number) => boolean): number {
  let [low, high] = [from, rows.length];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (isBefore(rows[middle], row)) low = middle + 1;
    else high = middle;
  }
  return low;
}
