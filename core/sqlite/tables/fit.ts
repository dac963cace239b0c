import { Class, type Encoding, serialBytes } from "../format/record.ts";
import type { Table } from "../format/schema.ts";
import { varintLength, varintNumber } from "../format/varint.ts";
import { ColumnHabits } from "./column-habits.ts";

/** Rows that are looked at before what they show is believed. */
const ENOUGH = 8;
/** Values of more bytes are no row of a phone. */
export const MOST_BYTES = 64 * 1024 * 1024;
/** Sums of scores differ by their order: by no more than this. */
const SLACK = 1e-9;
/** A value that scores less is unlike its column. */
const STRANGE = 0.25;

const shapeOf = ({ columns, stored, rowidColumn, withoutRowid }: Table): string =>
  JSON.stringify([
    withoutRowid,
    rowidColumn,
    stored.map((place) => [columns[place].name, columns[place].affinity, columns[place].notNull]),
  ]);

/** Tells tables of one shape of each other: messengers keep one for each conversation. */
export function noteAlike(fits: readonly TableFit[]): void {
  const families = new Map<string, TableFit[]>();
  for (const fit of fits) {
    const family = families.get(fit.shape);
    if (family) family.push(fit);
    else families.set(fit.shape, [fit]);
  }
  for (const fit of fits) fit.alike = families.get(fit.shape) ?? [fit];
}

/** A table as a shape that records fit or do not fit: its columns, and what its rows were seen to hold. */
export class TableFit {
  readonly table: Table;
  /** Its place in the list of tables. */
  readonly index: number;
  /** Number of values of a whole record. */
  readonly width: number;
  /** The schema is the database's own. Else: one that is known from elsewhere. */
  readonly own: boolean;
  readonly #columns: readonly ColumnHabits[];
  /** Which place of a record stands for the row id and is always NULL, or -1. */
  readonly #rowidPlace: number;
  #rows = 0;
  #fewest = Number.POSITIVE_INFINITY;
  #largestRowid = 0;

  /** What tables of one shape share: columns of the same names and kinds, stored in the same order. */
  readonly shape: string;
  /** All tables of the database of its shape, itself among them: their rows look alike. */
  alike: readonly TableFit[];

  /** It stands for the entries of an index of this table, which hold these columns of it and its row ids. */
  readonly indexOf: { readonly fit: TableFit; readonly columns: readonly number[] } | null;

  constructor(table: Table, index: number, own = true, indexOf: TableFit["indexOf"] = null) {
    this.indexOf = indexOf;
    this.table = table;
    this.index = index;
    this.own = own;
    this.width = table.stored.length;
    this.shape = indexOf || !own ? `#${index}` : shapeOf(table);
    this.alike = [this];
    this.#rowidPlace = table.stored.indexOf(table.rowidColumn);
    this.#columns = table.stored.map((place) => new ColumnHabits(table.columns[place]));
  }

  /** Were enough rows seen to know what is usual? */
  get learned(): boolean {
    return this.#rows >= ENOUGH;
  }

  /** Largest row id that was seen; 0: none was. */
  get largestRowid(): number {
    return this.#largestRowid;
  }

  /** Its rows say what tables there are: they lie in pages of their own, and are looked for nowhere else but whole. */
  get isSchema(): boolean {
    return this.table.name === "sqlite_schema";
  }

  /** Does a record begin with the NULL that stands for the row id? */
  get beginsWithRowid(): boolean {
    return this.#rowidPlace === 0;
  }

  /** Notes what a row that is surely of this table holds: values from `body` on, `there` bytes of them. */
  learn(types: readonly number[], rowid: number | bigint | null, bytes: Uint8Array, body: number, there: number, encoding: Encoding): void {
    if (types.length > this.width) return;
    this.#rows++;
    this.#fewest = Math.min(this.#fewest, types.length);
    let at = 0;
    for (let place = 0; place < types.length; place++) {
      this.#columns[place].learn(types[place], bytes, body + at, Math.max(0, there - at), encoding);
      at += serialBytes(types[place]);
    }
    if (rowid !== null && Number(rowid) > this.#largestRowid) this.#largestRowid = Number(rowid);
  }

  /** Were rows of so few values seen, or may there be some? */
  mayBeAsShort(length: number): boolean {
    if (length === this.width) return true;
    if (length > this.width || length * 2 < this.width || length < 3) return false;
    for (let place = length; place < this.width; place++)
      if (!(this.#columns[place].allowed & Class.null) && this.table.columns[this.table.stored[place]].preset === null) return false;
    return !this.learned || length >= this.#fewest;
  }

  /**
   * How well a record's types fit, from 0 (hardly) to 1 (each is what the column's rows hold). Negative: it cannot be one.
   * `from`: types before this place are not known.
   */
  score(types: readonly number[], from = 0): number {
    if (types.length !== this.width && !this.mayBeAsShort(types.length)) return -1;
    let points = 0;
    for (let place = from; place < types.length; place++) {
      const type = types[place];
      const one = place === this.#rowidPlace ? (type === 0 ? 1 : -1) : this.#columns[place].scoreType(type, this.learned);
      if (one < 0) return -1;
      points += one;
    }
    const known = types.length - from;
    return known === 0 ? 1 : (points / known) * (types.length === this.width ? 1 : 0.9);
  }

  /**
   * Reads the types of a whole record, the first ones given in `into`, and puts the others behind them, as long as they may still score so much.
   * @returns where they end, or 0 where they do not fit
   */
  readFitting(bytes: Uint8Array, from: number, to: number, into: number[], least: number): number {
    const { width } = this;
    const { learned } = this;
    let points = 0;
    for (let place = 0; place < into.length; place++) {
      const one = this.#scoreAt(place, into[place], learned);
      if (one < 0) return 0;
      points += one;
    }
    const enough = least * width;
    let at = from;
    let sum = 0;
    for (let place = into.length; place < width; place++) {
      if (at >= to) return 0;
      let type = bytes[at];
      let length = 1;
      if (type >= 0x80) {
        length = varintLength(bytes, at, to);
        if (length === 0 || length > 5) return 0;
        type = varintNumber(bytes, at, length);
      }
      const taken = serialBytes(type);
      sum += taken;
      if (taken < 0 || sum > MOST_BYTES) return 0;
      const one = this.#scoreAt(place, type, learned);
      if (one < 0) return 0;
      points += one;
      if (points + (width - 1 - place) < enough - SLACK) return 0;
      into.push(type);
      at += length;
    }
    return at;
  }

  #scoreAt(place: number, type: number, learned: boolean): number {
    return place === this.#rowidPlace ? (type === 0 ? 1 : -1) : this.#columns[place].scoreType(type, learned);
  }

  /** The same with the values at hand: of `there` bytes from `body` on. Negative where more than `mostStrange` of them are unlike their column. */
  scoreValues(
    types: readonly number[],
    bytes: Uint8Array,
    body: number,
    there: number,
    encoding: Encoding,
    mostStrange = Number.POSITIVE_INFINITY,
  ): number {
    let strange = 0;
    let points = 0;
    let at = 0;
    let judged = 0;
    for (let place = 0; place < types.length && at <= there; place++) {
      const type = types[place];
      if (place === this.#rowidPlace) points++;
      else {
        const one = this.#columns[place].scoreValue(type, bytes, body + at, there - at, encoding, this.learned);
        if (one < 0 || (one < STRANGE && ++strange > mostStrange)) return -1;
        points += one;
      }
      judged++;
      at += serialBytes(type);
    }
    return judged === 0 ? 0 : points / judged;
  }

  /** May a record have this type at this place, by its declaration? */
  mayHold(type: number, place: number): boolean {
    return this.#rowidPlace === place ? type === 0 : (this.#columns[place]?.scoreType(type, false) ?? -1) >= 0;
  }

  /** Serial types that a column may have. `bytes`: exactly so long; null: any that was seen. */
  typesOf(place: number, bytes: number | null): number[] {
    return place === this.#rowidPlace ? (bytes === null || bytes === 0 ? [0] : []) : this.#columns[place].typesOf(bytes, this.learned);
  }
}

/** All tables that a record may belong to, found by how many values it has. */
export class Shapes {
  readonly tables: readonly TableFit[];
  readonly rowid: readonly TableFit[];
  readonly keyed: readonly TableFit[];
  readonly #byWidth = new Map<number, readonly TableFit[]>();
  readonly #alone = new Map<TableFit, Shapes>();
  readonly #byIndex: ReadonlyMap<number, TableFit>;
  /** Numbers of values that whole records have, of tables with row ids and of others. */
  readonly rowidWidths: readonly number[];
  readonly keyedWidths: readonly number[];
  /** Of those with row ids: the ones whose records begin with it, and the others. */
  readonly rowidFirstWidths: readonly number[];
  readonly otherFirstWidths: readonly number[];
  /** Header sizes that a record may have, in bytes. */
  readonly fewest: number;
  readonly most: number;

  constructor(tables: readonly TableFit[]) {
    this.tables = tables;
    this.#byIndex = new Map(tables.map((fit) => [fit.index, fit]));
    this.rowid = tables.filter(({ table }) => !table.withoutRowid);
    this.keyed = tables.filter(({ table }) => table.withoutRowid);
    this.rowidWidths = [...new Set(this.rowid.map(({ width }) => width))];
    this.keyedWidths = [...new Set(this.keyed.map(({ width }) => width))];
    this.rowidFirstWidths = [...new Set(this.rowid.filter(({ beginsWithRowid }) => beginsWithRowid).map(({ width }) => width))];
    this.otherFirstWidths = [...new Set(this.rowid.filter((fit) => !fit.beginsWithRowid && !fit.isSchema).map(({ width }) => width))];
    this.fewest = Math.min(...tables.map(({ width }) => (width > 3 ? Math.ceil(width / 2) : width)), 127) + 1;
    this.most = Math.max(...tables.map(({ width }) => 2 + 3 * width), 2);
  }

  #first: Uint8Array | null = null;
  #second: Uint8Array | null = null;

  /** May a record of one of these tables begin with a type whose first byte this is? Asked for every byte of free space. */
  mayBegin(byte: number): boolean {
    this.#first ??= bytesOf((type) => this.tables.some((fit) => fit.mayHold(type, 0)));
    return this.#first[byte] === 1;
  }

  /** The same of the second type, where the first one stands for the row id. */
  mayFollowRowid(byte: number): boolean {
    this.#second ??= bytesOf((type) => this.tables.some((fit) => fit.beginsWithRowid && fit.mayHold(type, 1)));
    return this.#second[byte] === 1;
  }

  /** The table of that number; null where it is none of these. */
  ofIndex(index: number): TableFit | null {
    return this.#byIndex.get(index) ?? null;
  }

  /** One table only. */
  only(fit: TableFit): Shapes {
    let alone = this.#alone.get(fit);
    if (!alone) {
      alone = new Shapes([fit]);
      this.#alone.set(fit, alone);
    }
    return alone;
  }

  /** The table that types fit best, of those that score at least so much. The owner of the page comes first. */
  best(types: readonly number[], keyed: boolean, owner: TableFit | null, least: number): TableFit | null {
    if (owner && owner.table.withoutRowid === keyed && owner.score(types) >= least) return owner;
    let best: TableFit | null = null;
    let highest = least;
    for (const fit of this.ofWidth(types.length, keyed)) {
      // A schema of the database itself goes before one that is known from elsewhere.
      const score = fit.score(types) - (fit.own ? 0 : 0.05) - (fit.width === types.length ? 0 : 0.05);
      if (score >= highest && (score > highest || !best)) {
        best = fit;
        highest = score;
      }
    }
    return best;
  }

  ofWidth(width: number, keyed: boolean): readonly TableFit[] {
    const key = width * 2 + Number(keyed);
    const known = this.#byWidth.get(key);
    if (known) return known;
    const some = (keyed ? this.keyed : this.rowid).filter((fit) => fit.mayBeAsShort(width));
    this.#byWidth.set(key, some);
    return some;
  }
}

/** Bytes with which a type may begin that is allowed: of longer ones the first byte tells nothing. */
const bytesOf = (isAllowed: (type: number) => boolean): Uint8Array =>
  Uint8Array.from({ length: 256 }, (_, type) => Number(type >= 0x80 || isAllowed(type)));
