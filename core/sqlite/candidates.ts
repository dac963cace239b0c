import type { PageImage } from "./database-files.ts";
import type { TableFit } from "./fit.ts";
import { type FoundRow, fingerprint, typesPrintOf } from "./found-row.ts";

/** Where in a page a row lies, as far as it is needed to read it again. Offsets count from the first byte of the page. */
export interface RowPlace {
  readonly start: number;
  readonly body: number;
  readonly local: number;
  readonly overflow: number;
  readonly how: FoundRow["how"];
  readonly unallocated: boolean;
}

const placeOf = ({ start, body, local, overflow, how, unallocated }: FoundRow): RowPlace => ({
  start,
  body,
  local,
  overflow,
  how,
  unallocated,
});

/** Types of long values (texts of 27 KB and more) do not fit a character: then the list is kept. */
const MOST_PACKED = 0xd7ff;

function packed(types: readonly number[]): string | readonly number[] {
  let text = "";
  for (let index = 0; index < types.length; index++) {
    if (types[index] > MOST_PACKED) return types.slice();
    text += String.fromCharCode(types[index]);
  }
  return text;
}

/** The serial types of a candidate. */
export function typesOf({ types }: Candidate): readonly number[] {
  if (typeof types !== "string") return types;
  const list: number[] = [];
  for (let index = 0; index < types.length; index++) list.push(types.charCodeAt(index));
  return list;
}

/** A row that was met outside of what a reader sees. Its values stay in the page until it is told of. */
export interface Candidate {
  readonly fit: TableFit;
  rowid: number | bigint | null;
  image: PageImage;
  place: RowPlace;
  /** Serial types of its values, each as one character: a fraction of what a list of them takes. */
  readonly types: string | readonly number[];
  /** Not all of it is there, or a type of it was guessed. */
  readonly partial: boolean;
  /** Worth as the newest version: larger is newer. */
  age: number;
  /** Other places where the very same row lies; null: none. */
  copies: { readonly image: PageImage; readonly place: RowPlace }[] | null;
  /** It is a row that is there, or a part of one that is told of. */
  live: boolean;
  /** The first bytes of its values, of partial ones: held against rows that are whole. */
  readonly beginning: Uint8Array | null;
}

/** Bytes of a partial row's values that are held against others. */
const COMPARED = 512;
/** Other places of a row that are told of. */
const MAX_COPIES = 6;

/**
 * Which of several contents of one row id in one image is the newest: a row that the image counts as there; in pages that are
 * current one that was freed by itself, then one whose whole page was freed, then what a page keeps from before it was rebuilt.
 */
function standing(row: FoundRow, image: PageImage): number {
  if (row.how === "cell") return image.current ? 0.3 : 0.5;
  return row.unallocated ? 0.2 : 0.4;
}

/** One or several: most lists hold one, and there may be millions of them. */
type Some = Candidate | Candidate[];
const listOf = (some: Some | undefined): readonly Candidate[] => (some === undefined ? [] : Array.isArray(some) ? some : [some]);

function put<K>(map: Map<K, Some>, key: K, candidate: Candidate): void {
  const known = map.get(key);
  if (known === undefined) map.set(key, candidate);
  else if (Array.isArray(known)) known.push(candidate);
  else map.set(key, [known, candidate]);
}

/** All candidates of a database, each row once, found by row id, by content and by the kinds of its values. */
export class CandidateBook {
  readonly #byPrint = new Map<number, Some>();
  readonly #byRowid = new Map<TableFit, Map<number | bigint, Some>>();
  /** Partial ones by their types: they are held against whole rows of the same. */
  readonly #partial = new Map<number, Some>();
  /** One bit for each print and row id that is known: most of what is asked for is not, and is answered without a search. */
  readonly #maybe = new Uint8Array(1 << 20);
  /** Tables that have candidates at all. */
  readonly #tables = new Set<TableFit>();

  /** Candidates that are no row that is there, as they were met; of one row id together, when the first of them is due. */
  *groups(): Generator<Candidate[]> {
    for (const some of this.#byPrint.values())
      for (const candidate of listOf(some)) {
        if (candidate.live) continue;
        const group =
          candidate.rowid === null
            ? [candidate]
            : listOf(this.#byRowid.get(candidate.fit)?.get(candidate.rowid)).filter(({ live }) => !live);
        if (group[0] === candidate) yield group;
      }
  }

  *all(): Generator<Candidate> {
    for (const some of this.#byPrint.values()) yield* listOf(some);
  }

  add(row: FoundRow, bytes: Uint8Array, image: PageImage): void {
    const partial = row.how === "cut" || row.doubtful;
    const kinds = typesPrintOf(row.types);
    const print = fingerprint(kinds, bytes, row.body, row.local) + (partial ? 0.5 : 0);
    const age = image.age + standing(row, image);
    const known = listOf(this.#byPrint.get(print)).find(
      (one) => one.fit === row.fit && (one.rowid === row.rowid || one.rowid === null || row.rowid === null),
    );
    if (known) {
      // The copy that knows the row id is the one that speaks for all.
      if (known.rowid === null && row.rowid !== null) {
        note(known, known.image, known.place);
        known.rowid = row.rowid;
        known.image = image;
        known.place = placeOf(row);
        this.#noteRowid(known);
      } else note(known, image, placeOf(row));
      if (row.how === "cell" && age > known.age) known.age = age;
      return;
    }
    const candidate: Candidate = {
      fit: row.fit,
      rowid: row.rowid,
      image,
      place: placeOf(row),
      types: packed(row.types),
      partial,
      age,
      copies: null,
      live: false,
      beginning: partial ? bytes.slice(row.body, row.body + Math.min(row.local, COMPARED)) : null,
    };
    this.#tables.add(row.fit);
    put(this.#byPrint, print, candidate);
    this.#mark(print);
    this.#noteRowid(candidate);
    if (!partial) return;
    put(this.#partial, kinds, candidate);
  }

  #noteRowid(candidate: Candidate): void {
    if (candidate.rowid === null) return;
    let rows = this.#byRowid.get(candidate.fit);
    if (!rows) {
      rows = new Map();
      this.#byRowid.set(candidate.fit, rows);
    }
    put(rows, candidate.rowid, candidate);
    this.#mark(Number(candidate.rowid));
  }

  #mark(key: number): void {
    const bit = slotOf(key);
    this.#maybe[bit >>> 3] |= 1 << (bit & 7);
  }

  #isMarked(key: number): boolean {
    const bit = slotOf(key);
    return (this.#maybe[bit >>> 3] & (1 << (bit & 7))) !== 0;
  }

  /** Does anything speak of a table's rows? */
  speaksOf(fit: TableFit): boolean {
    return this.#tables.has(fit);
  }

  /** A row that is there: its copies are no erased rows. @returns other contents that its row id once had */
  live(fit: TableFit, rowid: number | bigint | null, print: number): readonly Candidate[] {
    const same = this.#isMarked(print) ? this.#byPrint.get(print) : undefined;
    if (same !== undefined)
      for (const one of listOf(same)) if (one.fit === fit && (one.rowid === null || rowid === null || one.rowid === rowid)) one.live = true;
    const others = rowid === null || !this.#isMarked(Number(rowid)) ? undefined : this.#byRowid.get(fit)?.get(rowid);
    return others === undefined ? NONE : listOf(others).filter(({ live }) => !live);
  }

  /** Partial candidates whose beginning is that of a whole row, there or erased, are a part of it and no row of their own. */
  markParts(kinds: number, bytes: Uint8Array, body: number, local: number): void {
    const some = this.#partial.get(kinds);
    if (some === undefined) return;
    for (const candidate of listOf(some)) {
      const { beginning } = candidate;
      if (!beginning || beginning.length > local) continue;
      let at = 0;
      while (at < beginning.length && beginning[at] === bytes[body + at]) at++;
      if (at === beginning.length) candidate.live = true;
    }
  }
}

const NONE: readonly Candidate[] = [];

/** Which of 2^23 bits stands for a number. */
const slotOf = (key: number): number => Math.imul((key | 0) ^ ((key / 2 ** 32) | 0), 0x9e37_79b1) >>> 9;

function note(candidate: Candidate, image: PageImage, place: RowPlace): void {
  candidate.copies ??= [];
  if (candidate.copies.length < MAX_COPIES) candidate.copies.push({ image, place });
}
