import { onMedium } from "../bytes/extents.ts";
import { grown } from "../bytes/grown.ts";
import type { RangeSet } from "../bytes/ranges.ts";
import type { Find, Patch } from "../finds/find.ts";
import { withLost } from "./grade.ts";

const FIRST_ROOM = 1024;

/**
 * Where all finds lie, in flat arrays: what cannot be read is often known only after a find was told of, when somebody reads
 * there for another reason. Then it is held against them all.
 */
export class LostPlaces {
  readonly #finds: { id: string; condition: Find["condition"] }[] = [];
  /** Of each stretch: its offset, its length, the find it belongs to. */
  #stretches = new Float64Array(FIRST_ROOM * 3);
  #count = 0;

  note({ id, condition, extents }: Find): void {
    const number = this.#finds.push({ id, condition }) - 1;
    for (const { offset, length } of onMedium(extents)) {
      if (this.#count * 3 === this.#stretches.length)
        this.#stretches = grown(this.#stretches, new Float64Array(this.#stretches.length * 2));
      this.#stretches.set([offset, length, number], this.#count++ * 3);
    }
  }

  /** What the finds are told of once more, now that this cannot be read: all of them, so that it does not matter when who was told. */
  patches(unreadable: RangeSet): Patch[] {
    if (unreadable.bytes === 0) return [];
    const lost = new Map<number, number>();
    for (let at = 0; at < this.#count * 3; at += 3) {
      const bytes = unreadable.overlap(this.#stretches[at], this.#stretches[at + 1]);
      const number = this.#stretches[at + 2];
      if (bytes > 0) lost.set(number, (lost.get(number) ?? 0) + bytes);
    }
    return Array.from(lost, ([number, bytes]) => {
      const { id, condition } = this.#finds[number];
      return { id, evidence: [], ...withLost({ condition, because: "" }, bytes) };
    });
  }
}
