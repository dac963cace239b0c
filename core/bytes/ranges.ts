import { type Extent, HOLE, hole } from "./extents.ts";

/** A set of bytes kept as sorted stretches that neither touch nor overlap. Adding costs a search and a shift. */
export class RangeSet {
  readonly #starts: number[] = [];
  readonly #ends: number[] = [];

  /** Index of the first stretch that ends after `offset`. */
  #firstEndingAfter(offset: number): number {
    let low = 0;
    let high = this.#ends.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.#ends[middle] > offset) high = middle;
      else low = middle + 1;
    }
    return low;
  }

  add(offset: number, length: number): void {
    if (length <= 0) return;
    let start = offset;
    let end = offset + length;
    let first = this.#firstEndingAfter(offset);
    if (first > 0 && this.#ends[first - 1] === offset) first--;
    let last = first;
    while (last < this.#starts.length && this.#starts[last] <= end) {
      start = Math.min(start, this.#starts[last]);
      end = Math.max(end, this.#ends[last]);
      last++;
    }
    this.#starts.splice(first, last - first, start);
    this.#ends.splice(first, last - first, end);
  }

  /** End of the stretch that holds this byte, or null when none does. */
  endOfStretchAt(offset: number): number | null {
    const index = this.#firstEndingAfter(offset);
    return index < this.#starts.length && this.#starts[index] <= offset ? this.#ends[index] : null;
  }

  /** Bytes of [offset, offset + length) that are in the set. */
  overlap(offset: number, length: number): number {
    return this.within(offset, length).reduce((sum, part) => sum + part.length, 0);
  }

  /** The parts of [offset, offset + length) that are in the set, in order. */
  within(offset: number, length: number): Extent[] {
    const parts: Extent[] = [];
    for (let index = this.#firstEndingAfter(offset); index < this.#starts.length && this.#starts[index] < offset + length; index++) {
      const from = Math.max(offset, this.#starts[index]);
      parts.push({ offset: from, length: Math.min(offset + length, this.#ends[index]) - from });
    }
    return parts;
  }

  get bytes(): number {
    return this.#ends.reduce((sum, end, index) => sum + end - this.#starts[index], 0);
  }

  list(): Extent[] {
    return this.#starts.map((offset, index) => ({ offset, length: this.#ends[index] - offset }));
  }
}

/** The same stretches, with holes where they are known not to read. */
export function holed(extents: readonly Extent[], lost: RangeSet): Extent[] {
  const parts: Extent[] = [];
  for (const { offset, length } of extents) {
    let at = offset;
    for (const gone of offset === HOLE ? [] : lost.within(offset, length)) {
      if (gone.offset > at) parts.push({ offset: at, length: gone.offset - at });
      parts.push(hole(gone.length));
      at = gone.offset + gone.length;
    }
    if (offset === HOLE) parts.push(hole(length));
    else if (at < offset + length) parts.push({ offset: at, length: offset + length - at });
  }
  return parts;
}

/** Where in a content holes stand: bytes counted from its beginning. */
export function holesIn(extents: readonly Extent[]): Extent[] {
  const holes: Extent[] = [];
  let before = 0;
  for (const { offset, length } of extents) {
    if (offset === HOLE) holes.push({ offset: before, length });
    before += length;
  }
  return holes;
}
