import { z } from "zod";
import { applyPatch, Find, type Patch } from "../../../core/finds/find.ts";
import { database, type Pack } from "../../kept/database.ts";

/** Finds a pack, and packs kept in memory. */
export const PACK_FINDS = 500;
const IN_MEMORY = 40;

const Finds = z.array(Find);

interface Page {
  readonly finds: Find[];
  readonly hidden: Set<number>;
}

/**
 * The finds of one scan of a medium as they are written: in packs in the browser's database, the latest of them at hand. What is dirty
 * stays so until it was kept.
 */
export class FindBook {
  readonly #medium: number;
  readonly #firstPack: number;
  readonly #pages = new Map<number, Page>();
  readonly #dirty = new Set<number>();
  readonly #rows = new Map<string, number>();

  private constructor(medium: number, firstPack: number) {
    this.#medium = medium;
    this.#firstPack = firstPack;
  }

  /** Opens what is kept from a pack on. One that cannot be understood is an error: nothing is dropped silently. */
  static async open(medium: number, firstPack: number): Promise<FindBook> {
    const book = new FindBook(medium, firstPack);
    for await (const { id } of book.all()) book.#rows.set(id, book.#rows.size);
    return book;
  }

  /** Number of the first pack behind all that are kept of a medium: where a scan that goes over everything anew begins. */
  static async behind(medium: number): Promise<number> {
    const last = await database.packs.where("medium").equals(medium).last();
    return last ? last.number + 1 : 0;
  }

  get firstPack(): number {
    return this.#firstPack;
  }
  get length(): number {
    return this.#rows.size;
  }

  /** Every find in the order in which they were told, those that are not shown among them. */
  async *all(): AsyncGenerator<Find> {
    for (let number = this.#firstPack; ; number++) {
      const { finds } = await this.#page(number);
      if (finds.length === 0) return;
      // A copy: a find may be changed while they are walked.
      yield* [...finds];
    }
  }

  async #page(number: number): Promise<Page> {
    const known = this.#pages.get(number);
    if (known) {
      this.#pages.delete(number);
      this.#pages.set(number, known);
      return known;
    }
    const kept = await database.packs.get([this.#medium, number]);
    // Somebody else may have asked for it meanwhile: there must be one copy only.
    const page = this.#pages.get(number) ?? { finds: kept ? Finds.parse(kept.finds) : [], hidden: new Set(kept?.hidden) };
    this.#pages.set(number, page);
    this.#forget(number);
    return page;
  }

  /** `inHand`: a page that is about to be written into is not let go of, however many others are dirty. */
  #forget(inHand = -1): void {
    for (const number of this.#pages.keys()) {
      if (this.#pages.size <= IN_MEMORY) return;
      if (!this.#dirty.has(number) && number !== inHand) this.#pages.delete(number);
    }
  }

  /** Adds a find or replaces the one of the same id. `isHidden`: nobody is shown it. @returns the one that was shown */
  async put(find: Find, isHidden = false): Promise<Find | null> {
    const row = this.#rows.get(find.id) ?? this.#rows.size;
    const number = this.#firstPack + Math.floor(row / PACK_FINDS);
    const { finds, hidden } = await this.#page(number);
    const position = row % PACK_FINDS;
    const before = hidden.has(position) ? null : (finds[position] ?? null);
    this.#rows.set(find.id, row);
    finds[position] = find;
    if (isHidden) hidden.add(position);
    else hidden.delete(position);
    this.#dirty.add(number);
    return before;
  }

  /** @returns the changed find, or null where none has that id */
  async patch(patch: Patch): Promise<Find | null> {
    const row = this.#rows.get(patch.id);
    if (row === undefined) return null;
    const { finds, hidden } = await this.#page(this.#firstPack + Math.floor(row / PACK_FINDS));
    const changed = applyPatch(finds[row % PACK_FINDS], patch);
    await this.put(changed, hidden.has(row % PACK_FINDS));
    return changed;
  }

  /** What changed since it was kept. */
  dirty(): Pack[] {
    return [...this.#dirty].flatMap((number) => {
      const page = this.#pages.get(number);
      return page ? [{ medium: this.#medium, number, finds: [...page.finds], hidden: [...page.hidden] }] : [];
    });
  }

  /** These are kept now. */
  settle(packs: readonly Pack[]): void {
    for (const { number } of packs) this.#dirty.delete(number);
    this.#forget();
  }
}
