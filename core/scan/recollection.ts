import type { ListedFile } from "../filesystems/volume.ts";
import type { Find } from "../finds/find.ts";
import { type Claims, idOf } from "./claims.ts";

/** What a scan that goes on knows of what it told before the break. */
export class Recollection {
  readonly #erased = new Set<string>();
  readonly #twins: Map<number, string>;
  readonly #claims: Claims;

  /** Where finds begin that claim nothing until all free space was seen. */
  readonly #floating: ReadonlySet<number>;

  constructor(claims: Claims, twins: readonly (readonly [number, string])[], floating: readonly number[]) {
    this.#floating = new Set(floating);
    this.#claims = claims;
    this.#twins = new Map(twins);
    for (const twin of twins) claims.twins.push(twin);
  }

  /** A find that was told before. */
  take(find: Find): void {
    if (find.id.startsWith("b") && this.#floating.has(find.extents[0]?.offset)) this.#claims.float(find);
    else this.#claims.recall(find);
    if (find.state === "erased" && find.inside === null) this.#erased.add(find.id);
  }

  /** Erased entries that were judged before: of which find they speak is known again, and nothing is read for it. */
  judged(file: ListedFile): void {
    const own = idOf(file);
    const id = this.#erased.has(own) ? own : this.#twins.get(file.at);
    if (id !== undefined) this.#claims.noteErased(file, id);
  }
}
