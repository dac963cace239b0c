/** What is known of a row and a word. */
export const Known = { nothing: 0, no: 1, yes: 2 } as const;
/** Words of which it is kept who has them: those that a person just typed. */
const KEPT = 12;
const ROOM = 1024;

/** Finds out whether a row holds a word, and writes it to its place; to those of others as well, if it finds that out by the way. */
export type Learn = (row: number, known: Uint8Array) => void;

/** Each row by itself. */
export const oneByOne =
  (has: (row: number) => boolean): Learn =>
  (row, known) => {
    known[row] = has(row) ? Known.yes : Known.no;
  };

/** Which rows hold a word, asked for once: a technician types on, or changes another filter, and what was found out still holds. */
export class WordMatches {
  readonly #learning: (word: string) => Learn;
  readonly #known = new Map<string, Uint8Array>();

  constructor(learning: (word: string) => Learn) {
    this.#learning = learning;
  }

  /** A row came, or says something else now. */
  touch(row: number): void {
    for (const known of this.#known.values()) if (row < known.length) known[row] = Known.nothing;
  }

  /** @returns does a row hold all of these words? Of the first `length` rows */
  holding(words: readonly string[], length: number): (row: number) => boolean {
    const all = words.map((word) => {
      const [learn, known] = [this.#learning(word), this.#of(word, length)];
      return (row: number): boolean => {
        if (known[row] === Known.nothing) learn(row, known);
        return known[row] === Known.yes;
      };
    });
    if (all.length === 1) return all[0];
    return (row) => {
      for (let at = 0; at < all.length; at++) if (!all[at](row)) return false;
      return true;
    };
  }

  /**
   * Marks rows that do not hold all of some words.
   * @param asked which of the first `length` rows are asked: 1
   * @param failed what is set in each row that does not hold them: `bit`
   */
  fail(words: readonly string[], length: number, asked: Uint8Array, failed: Uint8Array, bit: number): void {
    for (const word of words) {
      const [learn, known] = [this.#learning(word), this.#of(word, length)];
      for (let row = 0; row < length; row++) {
        if (asked[row] === 0) continue;
        if (known[row] === Known.nothing) learn(row, known);
        if (known[row] === Known.no) failed[row] |= bit;
      }
    }
  }

  #of(word: string, length: number): Uint8Array {
    const before = this.#known.get(word);
    const known = before && before.length >= length ? before : this.#grown(before ?? this.#ofPart(word), before !== undefined, length);
    // The one that was asked for last goes last.
    this.#known.delete(word);
    this.#known.set(word, known);
    for (const old of this.#known.keys()) {
      if (this.#known.size <= KEPT) break;
      this.#known.delete(old);
    }
    return known;
  }

  #grown(from: Uint8Array | null, isSame: boolean, length: number): Uint8Array {
    // Some room for those that come while it is asked for again.
    const known = new Uint8Array(length + (length >>> 3) + ROOM);
    if (!from) return known;
    known.set(from.length > known.length ? from.subarray(0, known.length) : from);
    // Who holds a part may not hold the whole.
    if (!isSame) for (let row = 0; row < known.length; row++) if (known[row] === Known.yes) known[row] = Known.nothing;
    return known;
  }

  /** What is known of a word that this one holds: who has not that has not this. */
  #ofPart(word: string): Uint8Array | null {
    let longest = "";
    for (const part of this.#known.keys()) if (word.includes(part) && part.length > longest.length) longest = part;
    return this.#known.get(longest) ?? null;
  }
}
