import type { PageImage } from "./database-files.ts";
import type { TableFit } from "./fit.ts";
import { type FoundRow, fingerprint } from "./found-row.ts";
import type { Value } from "./record.ts";

/** A row that was met outside of what a reader sees. Its values stay in the page until it is told of. */
export interface Candidate {
  readonly fit: TableFit;
  readonly rowid: number | bigint | null;
  readonly print: number;
  readonly image: PageImage;
  /** Where its cell begins in the page. */
  readonly start: number;
  /** Not all of it is there, or a type of it was guessed. */
  readonly partial: boolean;
  /** Worth as the newest version: larger is newer. */
  readonly age: number;
  /** Other places where the very same row lies. */
  readonly copies: { readonly image: PageImage; readonly start: number }[];
  /** It is a row that is there. */
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

/** Types alone, as a number: partial rows are held against whole ones of the same. */
function typesPrint(types: readonly number[]): number {
  let print = 17;
  for (let index = 0; index < types.length; index++) print = (Math.imul(print, 31) + types[index]) | 0;
  return print;
}

/** A version of a row that is there, with where it lies. */
export interface LiveMatch {
  readonly rowid: number | bigint | null;
  readonly values: readonly (Value | undefined)[];
}

/** All candidates of a database, each row once, found by row id, by content and by the kinds of its values. */
export class CandidateBook {
  readonly #byPrint = new Map<number, Candidate[]>();
  readonly #byRowid = new Map<TableFit, Map<number | bigint, Candidate[]>>();
  readonly #partial = new Map<number, { candidate: Candidate; types: readonly number[] }[]>();
  #count = 0;

  get size(): number {
    return this.#count;
  }

  *all(): Generator<Candidate> {
    for (const list of this.#byPrint.values()) yield* list;
  }

  add(row: FoundRow, bytes: Uint8Array, image: PageImage): void {
    const partial = row.how === "cut" || row.doubtful;
    const print = fingerprint(bytes, row.types, row.body, row.local) + (partial ? 0.5 : 0);
    const age = image.age + standing(row, image);
    const same = this.#byPrint.get(print) ?? [];
    const known = same.find((one) => one.fit === row.fit && (one.rowid === row.rowid || one.rowid === null || row.rowid === null));
    if (known) {
      // The copy that knows the row id is the one that speaks for all.
      if (known.rowid === null && row.rowid !== null) this.#replace(known, same, row, image, Math.max(age, known.age));
      else if (known.copies.length < MAX_COPIES) known.copies.push({ image, start: row.start });
      return;
    }
    const candidate: Candidate = {
      fit: row.fit,
      rowid: row.rowid,
      print,
      image,
      start: row.start,
      partial,
      age,
      copies: [],
      live: false,
      beginning: partial ? bytes.slice(row.body, row.body + Math.min(row.local, COMPARED)) : null,
    };
    this.#count++;
    same.push(candidate);
    if (same.length === 1) this.#byPrint.set(print, same);
    this.#noteRowid(candidate);
    if (!partial) return;
    const key = typesPrint(row.types);
    const list = this.#partial.get(key);
    if (list) list.push({ candidate, types: row.types });
    else this.#partial.set(key, [{ candidate, types: row.types }]);
  }

  #replace(known: Candidate, same: Candidate[], row: FoundRow, image: PageImage, age: number): void {
    const better: Candidate = {
      ...known,
      rowid: row.rowid,
      image,
      start: row.start,
      age,
      copies: [...known.copies, { image: known.image, start: known.start }],
    };
    same[same.indexOf(known)] = better;
    this.#noteRowid(better);
    for (const list of this.#partial.values()) for (const one of list) if (one.candidate === known) one.candidate = better;
  }

  #noteRowid(candidate: Candidate): void {
    if (candidate.rowid === null) return;
    let rows = this.#byRowid.get(candidate.fit);
    if (!rows) {
      rows = new Map();
      this.#byRowid.set(candidate.fit, rows);
    }
    const list = rows.get(candidate.rowid);
    if (list) list.push(candidate);
    else rows.set(candidate.rowid, [candidate]);
  }

  /** A row that is there: its copies are no erased rows. @returns other contents that its row id once had */
  live(
    fit: TableFit,
    rowid: number | bigint | null,
    types: readonly number[],
    bytes: Uint8Array,
    body: number,
    local: number,
  ): Candidate[] {
    this.#whole(fit, rowid, types, bytes, body, local);
    if (rowid === null) return [];
    const others = this.#byRowid.get(fit)?.get(rowid);
    return others?.filter(({ live }) => !live) ?? [];
  }

  /** A whole row, there or erased: what is the same as it, or a part of it, is no row of its own. */
  #whole(fit: TableFit, rowid: number | bigint | null, types: readonly number[], bytes: Uint8Array, body: number, local: number): void {
    const same = this.#byPrint.get(fingerprint(bytes, types, body, local));
    if (same) for (const one of same) if (one.fit === fit && (one.rowid === null || rowid === null || one.rowid === rowid)) one.live = true;
    if (this.#partial.size > 0)
      this.partOf(types, bytes, body, local, (one) => {
        one.live = true;
      });
  }

  /** Tells of each partial candidate whose beginning is that of this whole row. */
  partOf(types: readonly number[], bytes: Uint8Array, body: number, local: number, tell: (candidate: Candidate) => void): void {
    const list = this.#partial.get(typesPrint(types));
    if (!list) return;
    for (const { candidate, types: own } of list) {
      const { beginning } = candidate;
      if (!beginning || beginning.length > local || own.length !== types.length) continue;
      let at = 0;
      while (at < beginning.length && beginning[at] === bytes[body + at]) at++;
      if (at === beginning.length) tell(candidate);
    }
  }
}
