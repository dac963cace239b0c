import type { Find } from "../../../core/finds/find.ts";

/** Finds that are shown while a scan goes on. */
const MOST = 12;
/** Kinds that say something at a look: pictures first, then what else people lose. */
const SHOWN: readonly Find["kind"][] = ["photo", "video", "audio", "document"];

/** The newest finds of a scan, lost ones first, pictures first among these: what one looks at while it goes on, and when one comes back to it. */
export class Newest {
  /** Keys by how much they are worth a look. */
  readonly #ranks: string[][];

  /** `before`: what an earlier life of the scan showed. */
  constructor(before: readonly string[] = []) {
    this.#ranks = [[...before], ...Array.from({ length: 2 * SHOWN.length }, () => [])];
  }

  note(key: string, { kind, state, condition, inside, extents }: Find): void {
    const at = SHOWN.indexOf(kind);
    if (at < 0 || condition === "remnant" || inside || extents.length === 0) return;
    const rank = 1 + at + (state === "present" ? SHOWN.length : 0);
    for (const [index, keys] of this.#ranks.entries()) this.#ranks[index] = keys.filter((one) => one !== key);
    this.#ranks[rank] = [key, ...this.#ranks[rank]].slice(0, MOST);
  }

  get keys(): string[] {
    const [before, ...ranks] = this.#ranks;
    return [...ranks.slice(0, SHOWN.length).flat(), ...before, ...ranks.slice(SHOWN.length).flat()].slice(0, MOST);
  }
}
