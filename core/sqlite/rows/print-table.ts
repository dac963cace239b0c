/** Numbers found by a key, several for one key: open addressing in flat arrays, since there may be millions. */
export class PrintTable {
  #keys = new Float64Array(1024);
  /** One more than the number; 0: nothing is here. */
  #values = new Int32Array(1024);
  #used = 0;

  add(key: number, value: number): void {
    if (this.#used * 2 >= this.#values.length) this.#grow();
    this.#put(key, value + 1);
    this.#used++;
  }

  /** The first number of this key from a place on, and -1 where there is none; `next` goes on from there. */
  first(key: number): number {
    return this.#from(key, slotOf(key, this.#values.length - 1));
  }

  next(key: number): number {
    return this.#from(key, (this.#at + 1) & (this.#values.length - 1));
  }

  #at = 0;

  #from(key: number, start: number): number {
    const mask = this.#values.length - 1;
    for (let slot = start; this.#values[slot] !== 0; slot = (slot + 1) & mask) {
      if (this.#keys[slot] !== key) continue;
      this.#at = slot;
      return this.#values[slot] - 1;
    }
    return -1;
  }

  #put(key: number, stored: number): void {
    const mask = this.#values.length - 1;
    let slot = slotOf(key, mask);
    while (this.#values[slot] !== 0) slot = (slot + 1) & mask;
    this.#keys[slot] = key;
    this.#values[slot] = stored;
  }

  #grow(): void {
    const keys = this.#keys;
    const values = this.#values;
    this.#keys = new Float64Array(keys.length * 2);
    this.#values = new Int32Array(values.length * 2);
    for (let slot = 0; slot < values.length; slot++) if (values[slot] !== 0) this.#put(keys[slot], values[slot]);
  }
}

const slotOf = (key: number, mask: number): number => {
  const mixed = Math.imul((key | 0) ^ Math.imul((key / 2 ** 32) | 0, 0x85eb_ca6b), 0x9e37_79b1);
  return (mixed ^ (mixed >>> 15)) & mask;
};
