import type { ListedFile } from "../filesystems/volume.ts";
import type { Evidence, Find } from "../finds/find.ts";
import type { Checkpoint } from "./checkpoint.ts";
import { type Claims, idOf } from "./claims.ts";
import { isLookedInto } from "./scope.ts";

/** What a scan that goes on knows of what it told before the break. */
export class Recollection {
  readonly #erased = new Set<string>();
  readonly #twins: Map<number, string>;
  readonly #claims: Claims;

  /** Where finds begin that claim nothing until all free space was seen. */
  readonly #floating: ReadonlySet<number>;

  /** What a narrower scan went over, where this one goes over the rest; ids of what it told, and what it learned of files that it left. */
  readonly #widened: Checkpoint["widened"];
  readonly #told = new Set<string>();
  readonly #left = new Map<string, readonly Evidence[]>();

  constructor(claims: Claims, { twins, sweep, widened }: Checkpoint) {
    this.#floating = new Set(sweep.detectors.checked?.kept ?? []);
    this.#claims = claims;
    this.#widened = widened;
    this.#twins = new Map(twins);
    for (const twin of twins) claims.twins.push(twin);
  }

  /** A find that was told before. */
  take(find: Find): void {
    if (find.id.startsWith("b") && this.#floating.has(find.extents[0]?.offset)) this.#claims.float(find);
    else this.#claims.recall(find);
    if (find.state === "erased" && find.inside === null) this.#erased.add(find.id);
    if (!this.#widened) return;
    if (find.inside !== null || isLookedInto(this.#widened.from, find)) this.#told.add(find.id);
    else this.#left.set(find.id, find.evidence);
  }

  /** Is only the rest of what a narrower scan left gone over? */
  get isRest(): boolean {
    return this.#widened !== null;
  }

  /** Was all of a find told by a narrower scan, so that only the rest is gone over? */
  hasTold = (id: string): boolean => this.#told.has(id);

  /** A file that a narrower scan left, with what that learned of it by the way. */
  withLearned(find: Find): Find {
    for (const one of this.#left.get(find.id) ?? [])
      if (!find.evidence.some(({ pass, what, at }) => pass === one.pass && what === one.what && at === one.at)) find.evidence.push(one);
    return find;
  }

  /** Erased entries that were judged before: of which find they speak is known again, and nothing is read for it. @returns is it one of those? */
  judged(file: ListedFile): boolean {
    const own = idOf(file);
    const id = this.#erased.has(own) ? own : this.#twins.get(file.at);
    if (id !== undefined) this.#claims.noteErased(file, id);
    return id !== undefined;
  }
}
