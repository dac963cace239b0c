import { z } from "zod";
import { promisedBy } from "../filetypes/table.ts";
import { believable, type Find, type Patch } from "../finds/find.ts";
import type { FoundRecord, MediaValues } from "../finds/record.ts";

/** What a media list knows of a file of some size. Kept with a checkpoint: rows are told of once. */
export const Listed = z.object({
  size: z.number().int().positive(),
  path: z.string(),
  /** Milliseconds since 1970. */
  taken: z.number().nullable(),
  modified: z.number().nullable(),
  /** Where its row stands. */
  at: z.number().int().nonnegative(),
});
export type Listed = z.infer<typeof Listed>;

/** What is kept of a find without a name: there may be hundreds of thousands. */
type Nameless = Pick<Find, "id" | "format" | "taken">;

/** Rows that are kept: only those of a size that a find without a name has. */
const MOST_LISTED = 5000;
/** Files of fewer bytes have the same size by chance. */
const LEAST_BYTES = 4096;
/** Clocks of pictures stand in the time of the place, media lists in UTC: so far apart at most, by whole quarters of an hour. */
const FARTHEST = 14.5 * 3_600_000;
const QUARTER = 900_000;
const NEARLY = 2000;

/**
 * Names that media lists lend to finds that have none (MediaStore: DATA, SIZE, DATE_TAKEN, DATE_MODIFIED): a picture that lies where nothing names it any
 * more, of exactly the bytes that a row tells of a file that is gone. Where both say when it was taken, they must agree; else it must be the only
 * one of its size, and the only row.
 */
export class LentNames {
  readonly #nameless = new Map<number, Map<string, Nameless>>();
  readonly #sizes = new Map<string, number>();
  #listed: readonly Listed[];

  constructor(listed: readonly Listed[]) {
    this.#listed = listed;
  }

  get listed(): readonly Listed[] {
    return this.#listed;
  }

  /** A find was told, or was known from before. */
  note(find: Find): void {
    const { id, name, path, state, condition, inside, size, format, taken } = find;
    if (state !== "erased" || inside !== null || condition !== "whole" || size < LEAST_BYTES) return;
    // One that was lent a name before a break has that name: it is lent again.
    if (!this.#lent(find) && (name !== null || path !== null)) {
      this.#forget(id);
      return;
    }
    const same = this.#nameless.get(size) ?? new Map<string, Nameless>();
    this.#nameless.set(size, same.set(id, { id, format, taken }));
    this.#sizes.set(id, size);
  }

  #forget(id: string): void {
    this.#nameless.get(this.#sizes.get(id) ?? -1)?.delete(id);
    this.#sizes.delete(id);
  }

  #lent = ({ evidence }: Find): boolean => evidence.some(({ what }) => what.startsWith(WORDS));

  /** An entry of a list, or something else learned of a find. */
  patch({ id, entry }: Patch): void {
    if (entry?.name) this.#forget(id);
  }

  /** Rows of media lists, as they are told. */
  see(records: readonly FoundRecord[]): void {
    const fresh = records.flatMap(({ kind, values, evidence }): Listed[] => {
      if (kind !== "media" || !values) return [];
      const { size = 0, path, taken, modified } = values as MediaValues;
      if (!path || !this.#nameless.has(size)) return [];
      return [{ size, path, taken: timeOf(taken), modified: timeOf(modified), at: evidence[0]?.at ?? 0 }];
    });
    if (fresh.length > 0) this.#listed = [...this.#listed, ...fresh].slice(0, MOST_LISTED);
  }

  /** What is lent to whom. */
  patches(): Patch[] {
    const bySize = new Map<number, Map<string, Listed>>();
    // Of several rows of one path, of before and after a change, the first speaks.
    for (const one of this.#listed) {
      const same = bySize.get(one.size) ?? new Map<string, Listed>();
      if (!same.has(one.path)) bySize.set(one.size, same.set(one.path, one));
    }
    return [...bySize].flatMap(([size, rows]) => pairs([...(this.#nameless.get(size)?.values() ?? [])], [...rows.values()]).map(patchOf));
  }
}

const timeOf = (iso: string | undefined): number | null => (iso === undefined ? null : believable(Date.parse(iso)));

const agree = (find: Nameless, row: Listed): boolean | null => {
  if (find.taken === null || row.taken === null) return null;
  const apart = Math.abs(find.taken - row.taken);
  const rest = apart % QUARTER;
  return apart <= FARTHEST && Math.min(rest, QUARTER - rest) <= NEARLY;
};

/** Of finds and rows of one size, who is whose: where that is plain. */
function pairs(finds: readonly Nameless[], rows: readonly Listed[]): (readonly [Nameless, Listed])[] {
  const fits = (find: Nameless, row: Listed) => promisedBy(row.path).name === find.format && agree(find, row) !== false;
  return finds.flatMap((find) => {
    const own = rows.filter((row) => fits(find, row));
    const sure = own.filter((row) => agree(find, row) === true);
    const [row] = sure.length > 0 ? sure : own;
    const isOnly = row !== undefined && (sure.length === 1 || (sure.length === 0 && own.length === 1));
    const others = finds.filter(
      (other) => other !== find && fits(other, row ?? rows[0]) && (sure.length === 0 || agree(other, row) === true),
    );
    return isOnly && others.length === 0 ? [[find, row] as const] : [];
  });
}

const WORDS = "the media list has a file of exactly its bytes";

const patchOf = ([{ id }, { path, modified, at }]: readonly [Nameless, Listed]): Patch => ({
  id,
  entry: { name: path.slice(path.lastIndexOf("/") + 1), path, modified },
  evidence: [{ pass: "databases", what: `${WORDS}, as ${path}`, at }],
});
