/** Bits of a table: one million bytes, whatever is noted. */
const BITS = 2 ** 23;

/** A set of numbers that answers "not in it" for sure and "in it" nearly so: one bit for each, by a part of its hash. Asked before anything dearer is. */
export class BitTable {
  #bits: Uint32Array | null = null;

  get isEmpty(): boolean {
    return this.#bits === null;
  }

  /** `key`: any 32 bits. Neighbours stay neighbours: what is asked for in order is found in the same lines of memory. */
  add(key: number): void {
    this.#bits ??= new Uint32Array(BITS / 32);
    const bit = placeOf(key);
    this.#bits[bit >>> 5] |= 1 << (bit & 31);
  }

  mayHold(key: number): boolean {
    if (this.#bits === null) return false;
    const bit = placeOf(key);
    return (this.#bits[bit >>> 5] & (1 << (bit & 31))) !== 0;
  }
}

const placeOf = (key: number): number => (key ^ (key >>> 23)) & (BITS - 1);
