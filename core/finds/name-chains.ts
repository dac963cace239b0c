import { grown } from "../bytes/grown.ts";
import { NAMELESS } from "./find-orders.ts";

/** Chains that there is room for at first. */
const ROOM = 1024;

/**
 * Rows by what they are called: names of one hash stand in a chain (Knuth, The Art of Computer Programming 3, 6.4), two numbers for each row. Only who
 * asks pays for it: rows are put into their chains then.
 */
export class NameChains {
  readonly #names: readonly string[];
  /** Rows plus one: the last of each chain, and the one before each row. */
  #last = new Uint32Array(ROOM);
  #before = new Uint32Array(ROOM);
  #upTo = 0;

  /** `names`: by row; more may come. */
  constructor(names: readonly string[]) {
    this.#names = names;
  }

  /** Rows that are called exactly so, and were when they came; in their order. */
  called(name: string): number[] {
    this.#takeIn();
    const rows: number[] = [];
    for (let one = this.#last[this.#chainOf(name)]; one !== 0; one = this.#before[one - 1])
      if (this.#names[one - 1] === name) rows.push(one - 1);
    return rows.reverse();
  }

  #takeIn(): void {
    const length = this.#names.length;
    if (length > this.#before.length) {
      this.#before = grown(this.#before, new Uint32Array(length * 2));
      // Longer chains would be slow: all rows go into more of them.
      this.#last = new Uint32Array(2 ** Math.ceil(Math.log2(length * 2)));
      this.#upTo = 0;
    }
    for (; this.#upTo < length; this.#upTo++) {
      // What has no name is asked for by nobody, and would be the longest chain of all.
      if (this.#names[this.#upTo] === NAMELESS) continue;
      const chain = this.#chainOf(this.#names[this.#upTo]);
      this.#before[this.#upTo] = this.#last[chain];
      this.#last[chain] = this.#upTo + 1;
    }
  }

  /** By FNV-1a (draft-eastlake-fnv) over UTF-16 units; the number of chains is a power of two. */
  #chainOf(name: string): number {
    let hash = 0x811c9dc5;
    for (let at = 0; at < name.length; at++) hash = Math.imul(hash ^ name.charCodeAt(at), 0x01000193);
    return (hash ^ (hash >>> 15)) & (this.#last.length - 1);
  }
}
