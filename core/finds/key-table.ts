import { grown } from "../bytes/grown.ts";

/** Units from here on are written as this byte and two of their own. */
const LONG = 0xff;
/** Rows that there is room for at first, and bytes of their keys. */
const ROOM = 1024;

/**
 * Keys by number and numbers by key, each key once, in the order they came. A million keys as texts in a Map hold four times the memory: here their
 * bytes lie one behind the other, and a table with open addressing (Knuth, The Art of Computer Programming 3, 6.4) finds them.
 */
export class KeyTable {
  #bytes = new Uint8Array(ROOM * 8);
  /** Where each key begins; behind the last one: where the next will. */
  #begins = new Uint32Array(ROOM);
  /** Rows plus one; 0 is free. Never more than half full. */
  #slots = new Uint32Array(ROOM * 2);
  #length = 0;
  /** The key that is asked for, as it would lie in the bytes. */
  #asked = new Uint8Array(64);

  get length(): number {
    return this.#length;
  }

  /** The number of a key; undefined where it never came. */
  rowOf(key: string): number | undefined {
    const row = this.#slots[this.#slotOf(this.#spell(key))];
    return row === 0 ? undefined : row - 1;
  }

  /** @returns the number of a key, a new one where it never came */
  put(key: string): number {
    const size = this.#spell(key);
    const slot = this.#slotOf(size);
    if (this.#slots[slot] !== 0) return this.#slots[slot] - 1;
    const row = this.#length++;
    const at = this.#begins[row];
    if (row + 1 >= this.#begins.length) this.#begins = grown(this.#begins, new Uint32Array(this.#begins.length * 2));
    if (at + size > this.#bytes.length) this.#bytes = grown(this.#bytes, new Uint8Array((at + size) * 2));
    for (let index = 0; index < size; index++) this.#bytes[at + index] = this.#asked[index];
    this.#begins[row + 1] = at + size;
    this.#slots[slot] = row + 1;
    if (this.#length * 2 > this.#slots.length) this.#spread();
    return row;
  }

  keyOf(row: number): string {
    let key = "";
    for (let at = this.#begins[row]; at < this.#begins[row + 1]; at++) {
      const byte = this.#bytes[at];
      key += String.fromCharCode(byte === LONG ? (this.#bytes[++at] << 8) | this.#bytes[++at] : byte);
    }
    return key;
  }

  /** Writes out a key. @returns its bytes */
  #spell(key: string): number {
    if (key.length * 3 > this.#asked.length) this.#asked = new Uint8Array(key.length * 6);
    let size = 0;
    for (let at = 0; at < key.length; at++) {
      const unit = key.charCodeAt(at);
      if (unit < LONG) this.#asked[size++] = unit;
      else {
        this.#asked[size++] = LONG;
        this.#asked[size++] = unit >>> 8;
        this.#asked[size++] = unit & 0xff;
      }
    }
    return size;
  }

  /** The slot of the key that is asked for, or the free one where it would stand. */
  #slotOf(size: number): number {
    const last = this.#slots.length - 1;
    for (let slot = hashOf(this.#asked, 0, size) & last; ; slot = (slot + 1) & last) {
      const row = this.#slots[slot];
      if (row === 0 || this.#isAsked(row - 1, size)) return slot;
    }
  }

  #isAsked(row: number, size: number): boolean {
    const at = this.#begins[row];
    if (this.#begins[row + 1] - at !== size) return false;
    for (let index = 0; index < size; index++) if (this.#bytes[at + index] !== this.#asked[index]) return false;
    return true;
  }

  #spread(): void {
    const slots = new Uint32Array(this.#slots.length * 2);
    const last = slots.length - 1;
    for (let row = 0; row < this.#length; row++) {
      let slot = hashOf(this.#bytes, this.#begins[row], this.#begins[row + 1]) & last;
      while (slots[slot] !== 0) slot = (slot + 1) & last;
      slots[slot] = row + 1;
    }
    this.#slots = slots;
  }
}

/** FNV-1a (draft-eastlake-fnv), its high bits folded into the low ones: those choose the slot. */
function hashOf(bytes: Uint8Array, from: number, to: number): number {
  let hash = 0x811c9dc5;
  for (let at = from; at < to; at++) hash = Math.imul(hash ^ bytes[at], 0x01000193);
  return hash ^ (hash >>> 15);
}
