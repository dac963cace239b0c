import { grown } from "../../bytes/grown.ts";
import type { PageImage } from "../files/database-files.ts";
import { readTypes } from "../format/record.ts";
import { type FoundRow, fingerprint, type How, header, typesPrint } from "../free-space/found-row.ts";
import type { TableFit } from "../tables/fit.ts";
import { BitTable } from "./bit-table.ts";
import { contentKey } from "./content-key.ts";
import { PrintTable } from "./print-table.ts";
import { strongPrint } from "./strong-print.ts";

/** Where in a page image a row lies. Offsets count from the first byte of the page. */
export interface CandidatePlace {
  readonly image: PageImage;
  readonly start: number;
  readonly how: How;
  readonly unallocated: boolean;
}

/** A row that was met outside of what a reader sees. Its values stay in the page until it is told of. */
export interface Candidate extends CandidatePlace {
  readonly index: number;
  readonly fit: TableFit;
  readonly rowid: number | bigint | null;
  readonly types: readonly number[];
  readonly body: number;
  readonly local: number;
  readonly overflow: number;
  /** Not all of it is there, or a type of it was guessed. */
  readonly partial: boolean;
  /** Only its look tells of which of several tables of one shape it is. */
  readonly unsure: boolean;
  /** Worth as the newest version: larger is newer. */
  readonly age: number;
  /** Other places where the very same row lies. */
  readonly copies: readonly CandidatePlace[];
}

/** Bytes of a partial row's values that are held against others. */
const COMPARED = 512;
/** Other places of a row that are told of. */
const MAX_COPIES = 6;
const HOWS: readonly How[] = ["cell", "leftover", "head lost", "cut"];
/** What is packed into one number beside how it was met. */
const Flag = { unallocated: 8, partial: 16, live: 32, unsure: 64 } as const;

/**
 * Which of several contents of one row id in one image is the newest: a row that the image counts as there; in pages that are
 * current one that was freed by itself, then one whose whole page was freed, then what a page keeps from before it was rebuilt.
 */
function standing(row: FoundRow, image: PageImage): number {
  if (row.how === "cell") return image.current ? 0.3 : 0.5;
  return row.unallocated ? 0.2 : 0.4;
}

/**
 * All candidates of a database, each row once, found by row id, by content and by the kinds of its values. Kept in flat arrays:
 * there may be millions, and objects would take ten times the space.
 */
export class CandidateBook {
  #count = 0;
  readonly #fits: TableFit[] = [];
  /** By the number of a table: that of its family, tables of one shape. A row that was met in several places may look like any of them. */
  readonly #families: number[] = [];
  readonly #familyOf = new Map<string, number>();
  readonly #images: PageImage[] = [];
  #fit = new Uint16Array(1024);
  /** NaN: none is known. */
  #rowid = new Float64Array(1024);
  #image = new Uint32Array(1024);
  #start = new Uint16Array(1024);
  #body = new Uint16Array(1024);
  #local = new Uint16Array(1024);
  #overflow = new Uint32Array(1024);
  #flags = new Uint8Array(1024);
  #age = new Float64Array(1024);
  /** Where the types of each begin in the pool, as a record writes them; the next one's beginning is the end. */
  #types = new Uint32Array(1025);
  #pool = new Uint8Array(16 * 1024);
  readonly #byPrint = new PrintTable();
  readonly #byRowid = new PrintTable();
  /** Row ids that a number cannot hold exactly. */
  readonly #large = new Map<number, bigint>();
  readonly #copies = new Map<number, CandidatePlace[]>();
  readonly #beginnings = new Map<number, Uint8Array>();
  /** Partial ones by their types: they are held against whole rows of the same. */
  readonly #partial = new Map<number, number[]>();
  /** Whole ones without a row id, by what two rows hardly share. */
  readonly #strong = new PrintTable();
  /** Row ids that are noted, and contents of which the row id is not known: asked of each row that is there, before anything is worked out of it. */
  readonly #rowids = new BitTable();
  readonly #contents = new BitTable();
  /** Strong prints of whole candidates; 0: none. */
  #strongs = new Float64Array(1024);

  add(row: FoundRow, bytes: Uint8Array, image: PageImage): void {
    const partial = row.how === "cut" || row.doubtful;
    const headerBytes = header.write(row.types);
    const kinds = typesPrint(header.bytes, 0, headerBytes);
    const print = fingerprint(kinds, bytes, row.body, row.local) + (partial ? 0.5 : 0);
    const fit = this.#fitNumber(row.fit);
    const rowid = row.rowid === null ? Number.NaN : Number(row.rowid);
    const age = image.age + standing(row, image);
    for (let known = this.#byPrint.first(print); known >= 0; known = this.#byPrint.next(print)) {
      if (!this.#mayBeSame(known, fit, row.unsure)) continue;
      const own = this.#rowid[known];
      if (own !== rowid && !Number.isNaN(own) && !Number.isNaN(rowid)) continue;
      // The copy that knows the row id is the one that speaks for all.
      if (Number.isNaN(own) && !Number.isNaN(rowid)) {
        this.#note(known, this.#placeOf(known));
        this.#write(known, row, fit, image);
        this.#noteRowid(known, row);
      } else if (this.#isUnsure(known) && !row.unsure) {
        // The one that knows whose it is, too.
        this.#fit[known] = fit;
        this.#flags[known] &= ~Flag.unsure;
        this.#note(known, { image, start: row.start, how: row.how, unallocated: row.unallocated });
      } else this.#note(known, { image, start: row.start, how: row.how, unallocated: row.unallocated });
      if (row.how === "cell" && age > this.#age[known]) this.#age[known] = age;
      return;
    }
    const index = this.#count++;
    if (index === this.#fit.length) this.#grow(index * 2);
    this.#write(index, row, fit, image);
    this.#age[index] = age;
    this.#putTypes(index, header.bytes, headerBytes);
    if (row.rowid === null) this.#contents.add(contentKey(bytes, row.body, row.local, header.bytes, 0, headerBytes) ^ this.#families[fit]);
    this.#byPrint.add(print, index);
    this.#noteRowid(index, row);
    if (!partial) {
      const strong = strongPrint(bytes, 0, row.body, row.local, header.bytes, headerBytes);
      this.#strongs[index] = strong;
      if (strong !== 0 && row.rowid === null && !row.fit.table.withoutRowid) this.#strong.add(strong, index);
      return;
    }
    this.#beginnings.set(index, bytes.slice(row.body, row.body + Math.min(row.local, COMPARED)));
    const list = this.#partial.get(kinds);
    if (list) list.push(index);
    else this.#partial.set(kinds, [index]);
  }

  #fitNumber(fit: TableFit): number {
    const known = this.#fits.indexOf(fit);
    if (known >= 0) return known;
    const family = this.#familyOf.get(fit.shape) ?? this.#familyOf.size;
    this.#familyOf.set(fit.shape, family);
    this.#families.push(family);
    return this.#fits.push(fit) - 1;
  }

  #isUnsure(index: number): boolean {
    return (this.#flags[index] & Flag.unsure) !== 0;
  }

  /** May a candidate be a row of this table: it is its own, or of its family where not both are sure whose they are? */
  #mayBeSame(index: number, fit: number, unsure: boolean): boolean {
    const own = this.#fit[index];
    return own === fit || ((unsure || this.#isUnsure(index)) && this.#families[own] === this.#families[fit]);
  }

  #write(index: number, row: FoundRow, fit: number, image: PageImage): void {
    if (this.#images.at(-1) !== image) this.#images.push(image);
    this.#fit[index] = fit;
    this.#rowid[index] = row.rowid === null ? Number.NaN : Number(row.rowid);
    this.#image[index] = this.#images.length - 1;
    this.#start[index] = row.start;
    this.#body[index] = row.body;
    this.#local[index] = row.local;
    this.#overflow[index] = row.overflow;
    const partial = row.how === "cut" || row.doubtful ? Flag.partial : 0;
    this.#flags[index] = HOWS.indexOf(row.how) | (row.unallocated ? Flag.unallocated : 0) | (row.unsure ? Flag.unsure : 0) | partial;
  }

  #putTypes(index: number, bytes: Uint8Array, length: number): void {
    const from = this.#types[index];
    const end = from + length;
    if (end > this.#pool.length) this.#pool = grown(this.#pool, new Uint8Array(Math.max(end, this.#pool.length * 2)));
    for (let at = 0; at < length; at++) this.#pool[from + at] = bytes[at];
    this.#types[index + 1] = end;
  }

  #grow(length: number): void {
    this.#fit = grown(this.#fit, new Uint16Array(length));
    this.#rowid = grown(this.#rowid, new Float64Array(length));
    this.#image = grown(this.#image, new Uint32Array(length));
    this.#start = grown(this.#start, new Uint16Array(length));
    this.#body = grown(this.#body, new Uint16Array(length));
    this.#local = grown(this.#local, new Uint16Array(length));
    this.#overflow = grown(this.#overflow, new Uint32Array(length));
    this.#flags = grown(this.#flags, new Uint8Array(length));
    this.#age = grown(this.#age, new Float64Array(length));
    this.#strongs = grown(this.#strongs, new Float64Array(length));
    this.#types = grown(this.#types, new Uint32Array(length + 1));
  }

  #noteRowid(index: number, { rowid }: FoundRow): void {
    if (rowid === null) return;
    if (typeof rowid === "bigint") this.#large.set(index, rowid);
    this.#byRowid.add(Number(rowid), index);
    this.#rowids.add(rowidKey(Number(rowid)) ^ (this.#families[this.#fit[index]] << 16));
  }

  #note(index: number, place: CandidatePlace): void {
    const list = this.#copies.get(index);
    if (!list) this.#copies.set(index, [place]);
    else if (list.length < MAX_COPIES) list.push(place);
  }

  #placeOf(index: number): CandidatePlace {
    const flags = this.#flags[index];
    return {
      image: this.#images[this.#image[index]],
      start: this.#start[index],
      how: HOWS[flags & 7],
      unallocated: (flags & Flag.unallocated) !== 0,
    };
  }

  /** One candidate as it was noted. */
  at(index: number): Candidate {
    const types: number[] = [];
    readTypes(this.#pool, this.#types[index], this.#types[index + 1], types);
    const rowid = this.#rowid[index];
    // Spread into one another they would be put together a property at a time, which is slow for millions.
    const { image, start, how, unallocated } = this.#placeOf(index);
    return {
      image,
      start,
      how,
      unallocated,
      index,
      fit: this.#fits[this.#fit[index]],
      rowid: Number.isNaN(rowid) ? null : this.#large.size > 0 ? (this.#large.get(index) ?? rowid) : rowid,
      types,
      body: this.#body[index],
      local: this.#local[index],
      overflow: this.#overflow[index],
      partial: (this.#flags[index] & Flag.partial) !== 0,
      unsure: this.#isUnsure(index),
      age: this.#age[index],
      copies: this.#copies.get(index) ?? NO_COPIES,
    };
  }

  /** It is a row that is there, or a part or version of one that is told of: no row of its own. */
  isLive(index: number): boolean {
    return (this.#flags[index] & Flag.live) !== 0;
  }

  markLive(index: number): void {
    this.#flags[index] |= Flag.live;
  }

  /** Candidates that are no row that is there, as they were met; of one row id together, when the first of them is due. */
  *groups(): Generator<Candidate[]> {
    for (let index = 0; index < this.#count; index++) {
      if (this.isLive(index)) continue;
      if (Number.isNaN(this.#rowid[index])) continue;
      const group = this.#ofRowid(this.#fit[index], this.#rowid[index]);
      if (Math.min(...group) !== index) continue;
      // Those whose row id is lost, but which are the same row by all that two rows hardly share.
      for (const one of [...group])
        for (const other of this.#nameless(this.#fit[one], this.#strongs[one])) if (!group.includes(other)) group.push(other);
      yield group.map((one) => this.at(one));
      for (const one of group) this.markLive(one);
    }
    for (let index = 0; index < this.#count; index++) {
      if (this.isLive(index) || !Number.isNaN(this.#rowid[index])) continue;
      const group = this.#nameless(this.#fit[index], this.#strongs[index]);
      if (group.length === 0) group.push(index);
      yield group.map((one) => this.at(one));
      for (const one of group) this.markLive(one);
    }
  }

  /** Candidates without a row id that a strong print leads to. */
  #nameless(fit: number, strong: number): number[] {
    const some: number[] = [];
    if (strong === 0) return some;
    for (let one = this.#strong.first(strong); one >= 0; one = this.#strong.next(strong))
      if (this.#mayBeSame(one, fit, false) && Number.isNaN(this.#rowid[one]) && !this.isLive(one)) some.push(one);
    return some;
  }

  /** Older contents of a row that is there, whose row id is lost. */
  namelessOf(fit: TableFit, strong: number): readonly number[] {
    return strong === 0 || this.#strong.first(strong) < 0 ? NONE : this.#nameless(this.#fitNumber(fit), strong);
  }

  #ofRowid(fit: number, rowid: number): number[] {
    const some: number[] = [];
    for (let one = this.#byRowid.first(rowid); one >= 0; one = this.#byRowid.next(rowid))
      if (this.#fit[one] === fit && this.#rowid[one] === rowid && !this.isLive(one) && !some.includes(one)) some.push(one);
    return some;
  }

  /** Are there candidates that may be parts of others? */
  get hasParts(): boolean {
    return this.#partial.size > 0;
  }

  /** The number that tables of this one's shape go by here. Negative: nothing speaks of rows of any of them. */
  familyOf(fit: TableFit): number {
    return this.#familyOf.get(fit.shape) ?? -1;
  }

  /**
   * May a candidate speak of a row that is there, by its number's, its content or as a part of it? `family`: the number that tables of its shape go by. Most rows are
   * done with here: nothing of them but their row id and their first moment is looked at.
   */
  maySpeakOf(family: number, rowid: number | bigint | null, bytes: Uint8Array, types: number, body: number, local: number): boolean {
    if (rowid !== null && this.#rowids.mayHold(rowidKey(Number(rowid)) ^ (family << 16))) return true;
    if (!this.#contents.isEmpty && this.#contents.mayHold(contentKey(bytes, body, local, bytes, types, body) ^ family)) return true;
    return this.#partial.size > 0 && this.#partial.has(typesPrint(bytes, types, body));
  }

  /** A row that is there: its copies are no erased rows. @returns other contents that its row id once had */
  live(fit: TableFit, rowid: number | bigint | null, print: number): readonly number[] {
    const number = this.#fitNumber(fit);
    const own = rowid === null ? Number.NaN : Number(rowid);
    for (let one = this.#byPrint.first(print); one >= 0; one = this.#byPrint.next(print)) {
      const known = this.#rowid[one];
      if (this.#mayBeSame(one, number, false) && (known === own || Number.isNaN(known) || rowid === null)) this.markLive(one);
    }
    if (rowid === null || this.#byRowid.first(own) < 0) return NONE;
    return this.#ofRowid(number, own);
  }

  /** Partial candidates whose beginning is that of a whole row, there or erased, are a part of it and no row of their own. */
  markParts(kinds: number, bytes: Uint8Array, body: number, local: number): void {
    for (const index of this.#partial.get(kinds) ?? NONE) {
      const beginning = this.#beginnings.get(index);
      if (!beginning || beginning.length > local) continue;
      let at = 0;
      while (at < beginning.length && beginning[at] === bytes[body + at]) at++;
      if (at === beginning.length) this.markLive(index);
    }
  }
}

/** A row id as 32 bits. */
const rowidKey = (rowid: number): number =>
  rowid === (rowid | 0) ? rowid : ((rowid % 2 ** 32) | 0) ^ Math.imul((rowid / 2 ** 32) | 0, 0x9e37_79b1);

const NONE: readonly number[] = [];
const NO_COPIES: readonly CandidatePlace[] = [];
