import { Class, classOf, type Encoding, serialBytes, valueAt } from "../format/record.ts";
import { type Column, classesOf, expectedOf } from "../format/schema.ts";

/** Different text and blob sizes that are remembered of a column. */
const MAX_SIZES = 48;
/** Types that a record writes in one byte. */
const SHORT_TYPES = 128;
/** Bytes of a text that are held against what the column's texts are made of. */
const SPELLED = 96;

/** What the values of one column were seen to be: kinds, ranges, lengths, letters. */
export class ColumnHabits {
  /** Classes that it may hold, and is expected to, by its declaration. */
  readonly allowed: number;
  readonly expected: number;
  #seen = 0;
  #types = 0;
  #least = Number.POSITIVE_INFINITY;
  #most = Number.NEGATIVE_INFINITY;
  #shortest = Number.POSITIVE_INFINITY;
  #longest = 0;
  /** Which bytes its texts hold; in UTF-16 the higher ones of each unit: which alphabets. */
  readonly #letters = new Uint8Array(256);
  readonly #sizes = new Set<number>();

  constructor(column: Column) {
    this.allowed = classesOf(column);
    this.expected = expectedOf(column);
  }

  learn(type: number, bytes: Uint8Array, at: number, there: number, encoding: Encoding): void {
    this.#seen |= classOf(type);
    this.#scores = null;
    if (type < 10) {
      this.#types |= 1 << type;
      if (type !== 0 && type !== 7 && serialBytes(type) <= there) {
        const value = Number(valueAt(bytes, at, type, encoding));
        this.#least = Math.min(this.#least, value);
        this.#most = Math.max(this.#most, value);
      }
      return;
    }
    const length = serialBytes(type);
    this.#shortest = Math.min(this.#shortest, length);
    this.#longest = Math.max(this.#longest, length);
    if (this.#sizes.size < MAX_SIZES) this.#sizes.add(type);
    if (!(type & 1)) return;
    const step = encoding === "utf-8" ? 1 : 2;
    const first = encoding === "utf-16le" ? 1 : 0;
    for (let place = at + first; place < at + Math.min(length, there); place += step) this.#letters[bytes[place]] = 1;
  }

  /** Scores of the types of one byte, worked out once for what was learned so far: they are asked for in every byte of free space. */
  #scores: Float64Array | null = null;
  #scoresLearned = false;

  /** How well a type fits alone: 0 to 1, negative where it cannot be. `learned`: enough rows were seen. */
  scoreType(type: number, learned: boolean): number {
    if (type >= SHORT_TYPES) return this.#score(type, learned);
    if (this.#scores === null || this.#scoresLearned !== learned) {
      this.#scores = Float64Array.from({ length: SHORT_TYPES }, (_, one) => this.#score(one, learned));
      this.#scoresLearned = learned;
    }
    return this.#scores[type];
  }

  #score(type: number, learned: boolean): number {
    const kind = classOf(type);
    if (!(this.allowed & kind)) return -1;
    if (!learned) return this.expected & kind ? (kind === Class.null || this.expected === this.allowed ? 0.75 : 1) : 0;
    if (!(this.#seen & kind)) return this.expected & kind ? 0.2 : 0;
    return type < 10 && type > 0 && !(this.#types & (1 << type)) ? 0.6 : 1;
  }

  /** The same with the value at hand, as far as it is `there`. */
  scoreValue(type: number, bytes: Uint8Array, at: number, there: number, encoding: Encoding, learned: boolean): number {
    const byType = this.scoreType(type, learned);
    if (!learned || byType < 0.6 || type === 0 || type === 7) return byType;
    if (type < 10) {
      if (serialBytes(type) > there) return byType;
      const value = Number(valueAt(bytes, at, type, encoding));
      if (value >= this.#least && value <= this.#most) return byType;
      const room = this.#most - this.#least + 16;
      return value >= this.#least - room && value <= this.#most + room ? byType * 0.85 : 0.15;
    }
    const length = serialBytes(type);
    const fits =
      length >= this.#shortest && length <= this.#longest
        ? 1
        : this.#shortest < this.#longest && length * 2 >= this.#shortest - 4 && length <= this.#longest * 2 + 8
          ? 0.85
          : 0.2;
    if (!(type & 1)) return byType * fits;
    const step = encoding === "utf-8" ? 1 : 2;
    const first = encoding === "utf-16le" ? 1 : 0;
    const letters = this.#letters;
    const end = at + Math.min(length, there, SPELLED);
    let strange = 0;
    let seen = 0;
    for (let place = at + first; place < end; place += step) {
      seen++;
      strange += 1 - letters[bytes[place]];
    }
    const spelled = strange === 0 ? 1 : strange * 8 <= seen ? 0.85 : strange * 3 <= seen ? 0.5 : 0.1;
    return byType * fits * spelled;
  }

  /** Serial types that the column was seen to hold, or may be expected to. `bytes`: exactly so long; null: any length seen. */
  typesOf(bytes: number | null, learned: boolean): number[] {
    const some: number[] = [];
    for (let type = 0; type < 10; type++) {
      if (bytes !== null && serialBytes(type) !== bytes) continue;
      if (learned ? this.#types & (1 << type) : this.expected & classOf(type)) some.push(type);
    }
    if (bytes === null) some.push(...this.#sizes);
    else if (!learned || (bytes >= this.#shortest && bytes <= this.#longest)) {
      const kinds = learned ? this.#seen : this.expected;
      if (kinds & Class.text) some.push(13 + 2 * bytes);
      if (kinds & Class.blob) some.push(12 + 2 * bytes);
    }
    return some;
  }
}
