import { grown } from "../bytes/grown.ts";

/** Rows that there is room for at first. */
const ROOM = 1024;

/** What finds are filtered, counted and sorted by, in flat arrays: a column of each, a row of each find. */
export class FindColumns {
  /** What it is in all facets of few values: see Combinations. */
  combination = new Uint32Array(ROOM);
  day = new Int32Array(ROOM);
  time = new Float64Array(ROOM);
  size = new Float64Array(ROOM);
  start = new Float64Array(ROOM);
  seconds = new Float64Array(ROOM);
  /** By number: most finds share theirs. */
  folder = new Int32Array(ROOM);
  camera = new Int32Array(ROOM);
  pack = new Int32Array(ROOM);
  position = new Int32Array(ROOM);
  /** Finds of one size and one SHA-256 by a number of theirs; 0: it is not known to be twice. */
  group = new Int32Array(ROOM);
  /** Is its SHA-256 known? */
  hashed = new Uint8Array(ROOM);

  /** Makes room for a row. */
  reach(row: number): void {
    if (row < this.combination.length) return;
    const length = row * 2;
    this.combination = grown(this.combination, new Uint32Array(length));
    this.day = grown(this.day, new Int32Array(length));
    this.time = grown(this.time, new Float64Array(length));
    this.size = grown(this.size, new Float64Array(length));
    this.start = grown(this.start, new Float64Array(length));
    this.seconds = grown(this.seconds, new Float64Array(length));
    this.folder = grown(this.folder, new Int32Array(length));
    this.camera = grown(this.camera, new Int32Array(length));
    this.pack = grown(this.pack, new Int32Array(length));
    this.position = grown(this.position, new Int32Array(length));
    this.group = grown(this.group, new Int32Array(length));
    this.hashed = grown(this.hashed, new Uint8Array(length));
  }
}

/** Different values of a column by number, each kept once. */
export class Names<T> {
  readonly #values: T[] = [];
  readonly #numbers = new Map<T, number>();

  numberOf(value: T): number {
    const known = this.#numbers.get(value);
    if (known !== undefined) return known;
    this.#numbers.set(value, this.#values.length);
    return this.#values.push(value) - 1;
  }

  get all(): readonly T[] {
    return this.#values;
  }

  at(number: number): T {
    return this.#values[number];
  }
}
