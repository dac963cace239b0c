import { z } from "zod";
import { applyPatch, Find, type Patch } from "../../core/finds/find.ts";
import { FindIndex } from "../../core/finds/find-index.ts";
import { database } from "../kept/database.ts";

/** Finds a chunk, and chunks kept in memory. */
const CHUNK = 500;
const IN_MEMORY = 40;

const Finds = z.array(Find);

/** A job's finds: columns in memory, the rest in packed chunks in the browser's database, the latest of them at hand. */
export class FindShelf {
  readonly #job: number;
  readonly #chunks = new Map<number, Find[]>();
  readonly #dirty = new Set<number>();
  index = new FindIndex();
  /** Grows with every change. */
  generation = 0;

  private constructor(job: number) {
    this.#job = job;
  }

  /** Loads what is kept of a job. A chunk that cannot be understood is an error: nothing is dropped silently. */
  static async open(job: number): Promise<FindShelf> {
    const shelf = new FindShelf(job);
    for await (const find of shelf.all()) shelf.index.put(find);
    shelf.generation = shelf.index.length;
    return shelf;
  }

  /** Every find that is kept, chunk by chunk. */
  async *all(): AsyncGenerator<Find> {
    for (let number = 0; ; number++) {
      const finds = await this.#chunk(number);
      if (finds.length === 0) return;
      yield* finds;
    }
  }

  async #chunk(number: number): Promise<Find[]> {
    const known = this.#chunks.get(number);
    if (known) {
      this.#chunks.delete(number);
      this.#chunks.set(number, known);
      return known;
    }
    const kept = await database.chunks.get([this.#job, number]);
    // Somebody else may have asked for it meanwhile: there must be one copy only.
    const finds = this.#chunks.get(number) ?? (kept ? Finds.parse(kept.finds) : []);
    this.#chunks.set(number, finds);
    this.#forget();
    return finds;
  }

  #forget(): void {
    for (const number of this.#chunks.keys()) {
      if (this.#chunks.size <= IN_MEMORY) return;
      if (!this.#dirty.has(number)) this.#chunks.delete(number);
    }
  }

  /** Adds a find or replaces the one of the same id. @returns the one that was there */
  async put(find: Find): Promise<Find | null> {
    const known = this.index.rowOf(find.id);
    const row = known ?? this.index.length;
    const finds = await this.#chunk(Math.floor(row / CHUNK));
    const before = finds[row % CHUNK] ?? null;
    this.index.put(find);
    finds[row % CHUNK] = find;
    this.#dirty.add(Math.floor(row / CHUNK));
    this.generation++;
    return before;
  }

  /** @returns the changed find, or null where none has that id */
  async patch(patch: Patch): Promise<Find | null> {
    const find = await this.get(patch.id);
    if (!find) return null;
    const changed = applyPatch(find, patch);
    await this.put(changed);
    return changed;
  }

  async get(id: string): Promise<Find | null> {
    const row = this.index.rowOf(id);
    return row === undefined ? null : this.at(row);
  }

  async at(row: number): Promise<Find> {
    return (await this.#chunk(Math.floor(row / CHUNK)))[row % CHUNK];
  }

  /** Chunks that changed since they were kept: to be written together with the checkpoint. */
  takeDirty(): { job: number; number: number; finds: Find[] }[] {
    const chunks = [...this.#dirty].map((number) => ({ job: this.#job, number, finds: this.#chunks.get(number) ?? [] }));
    this.#dirty.clear();
    return chunks;
  }

  /** Takes chunks back that could not be kept: they are still to be written, and what was written before must not cover them. */
  putBack(chunks: ReturnType<FindShelf["takeDirty"]>): void {
    for (const { number, finds } of chunks) {
      this.#chunks.set(number, finds);
      this.#dirty.add(number);
    }
  }

  async clear(): Promise<void> {
    await database.chunks.where("job").equals(this.#job).delete();
    this.#chunks.clear();
    this.#dirty.clear();
    this.index = new FindIndex();
    this.generation++;
  }
}
