import { grown } from "../bytes/grown.ts";

/** The combination of a row that is no find any more. */
export const GONE = 0;
/** It fails everything, so that no filter that is left out lets it through. */
const FAILS_ALL = 0xffff;
const ROOM = 64;

/**
 * What finds are in all facets of few values: their class (see find-class.ts) and their facts (see fact-table.ts). A million finds are of a few hundred
 * combinations: filters are asked of these, and a find only says which one it is of.
 */
export class Combinations {
  readonly #numbers = new Map<number, number>();
  #classes = new Uint32Array(ROOM);
  #facts = new Uint32Array(ROOM);
  #length = 1;

  /** Of each combination: its class, its facts. */
  get classes(): Uint32Array {
    return this.#classes;
  }

  get facts(): Uint32Array {
    return this.#facts;
  }

  numberOf(ofClass: number, facts: number): number {
    // Both are small: their pair is a whole number that is exact.
    const pair = ofClass * 2 ** 26 + facts;
    const known = this.#numbers.get(pair);
    if (known !== undefined) return known;
    const number = this.#length++;
    this.#numbers.set(pair, number);
    if (number >= this.#classes.length) {
      this.#classes = grown(this.#classes, new Uint32Array(number * 2));
      this.#facts = grown(this.#facts, new Uint32Array(number * 2));
    }
    this.#classes[number] = ofClass;
    this.#facts[number] = facts;
    return number;
  }

  /** Which filters each combination fails, by its number: those of its class and those of its facts. */
  failing(classes: Uint8Array, facts: Uint16Array): Uint16Array {
    const failing = new Uint16Array(this.#length);
    failing[GONE] = FAILS_ALL;
    for (let one = GONE + 1; one < this.#length; one++) failing[one] = classes[this.#classes[one]] | facts[this.#facts[one]];
    return failing;
  }
}
