import { grown } from "../bytes/grown.ts";
import { Known } from "./word-matches.ts";

/** Texts of one block. */
const SLOTS = 32;
const SLOT_BITS = 5;
const ROOM = 1024;
/** A text of so many letters at most is kept once, however often it comes: who was called comes again and again, what was said seldom. */
const SHORT = 64;
/** So many of those at most are remembered. */
const MOST_SHARED = 65_536;
/** A letter of two bytes: a single one would double what its whole block takes. */
const WIDE = /[^\0-\xff]/;
const BETWEEN = "\n";

/** A block whose texts still come, and its number. */
interface Open {
  readonly number: number;
  readonly texts: string[];
}

/**
 * Texts by number, in blocks of one string each: a million short strings of their own take twice as much memory, and are looked through many times
 * slower than a few long ones.
 */
export class TextBlocks {
  /** By the block's number; empty while its texts still come. */
  readonly #blocks: string[] = [];
  readonly #open = new Map<boolean, Open>();
  /** Where each text begins in its block, by its number. */
  #starts = new Uint32Array(ROOM);
  readonly #shared = new Map<string, number>();

  /** All numbers are below this. */
  get length(): number {
    return this.#blocks.length << SLOT_BITS;
  }

  /** @returns the number of a text: that of an equal one that came before, or a new one */
  put(text: string): number {
    const known = text.length <= SHORT ? this.#shared.get(text) : undefined;
    if (known !== undefined) return known;
    const isNarrow = !WIDE.test(text);
    const open = this.#open.get(isNarrow) ?? this.#begin(isNarrow);
    const number = (open.number << SLOT_BITS) + open.texts.push(text) - 1;
    if (text.length <= SHORT && this.#shared.size < MOST_SHARED) this.#shared.set(text, number);
    if (open.texts.length === SLOTS) this.#close(open, isNarrow);
    return number;
  }

  #begin(isNarrow: boolean): Open {
    const open = { number: this.#blocks.push("") - 1, texts: [] };
    if (this.length > this.#starts.length) this.#starts = grown(this.#starts, new Uint32Array(this.length * 2));
    this.#open.set(isNarrow, open);
    return open;
  }

  #close({ number, texts }: Open, isNarrow: boolean): void {
    this.#open.delete(isNarrow);
    let start = 0;
    for (const [slot, text] of texts.entries()) {
      this.#starts[(number << SLOT_BITS) + slot] = start;
      start += text.length + BETWEEN.length;
    }
    this.#blocks[number] = texts.join(BETWEEN);
  }

  #openAt(block: number): Open | undefined {
    for (const open of this.#open.values()) if (open.number === block) return open;
    return undefined;
  }

  /** A text by its number. */
  at(number: number): string {
    const block = number >>> SLOT_BITS;
    const open = this.#openAt(block);
    if (open) return open.texts[number & (SLOTS - 1)];
    const isLast = (number & (SLOTS - 1)) === SLOTS - 1;
    return this.#blocks[block].slice(this.#starts[number], isLast ? undefined : this.#starts[number + 1] - BETWEEN.length);
  }

  /** Finds out who of a text's block holds a word; it has no line breaks. For WordMatches. */
  learn(word: string, number: number, known: Uint8Array): void {
    const block = number >>> SLOT_BITS;
    const first = block << SLOT_BITS;
    const open = this.#openAt(block);
    if (open) {
      for (const [slot, text] of open.texts.entries()) known[first + slot] = text.includes(word) ? Known.yes : Known.no;
      return;
    }
    const all = this.#blocks[block];
    known.fill(Known.no, first, first + SLOTS);
    for (let slot = 0, hit = all.indexOf(word); hit >= 0; hit = all.indexOf(word, this.#starts[first + slot])) {
      while (slot < SLOTS && this.#starts[first + slot] <= hit) slot++;
      known[first + slot - 1] = Known.yes;
      if (slot === SLOTS) return;
    }
  }
}
