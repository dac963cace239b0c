import { type Extent, totalLength } from "../bytes/extents.ts";
import { RangeSet } from "../bytes/ranges.ts";
import type { Find } from "../finds/find.ts";
import type { ListedFile } from "../medium/volume.ts";

/** A find's id by its list entry. */
export const idOf = (file: ListedFile): string => `e${file.at.toString(16)}`;
const placeKey = (file: ListedFile): string => `${file.firstByte}+${file.size}`;

/** What later passes must know of the erased finds so far; small enough to be kept for hundreds of thousands. */
export class Claims {
  /** Bytes of erased items whose structure was walked to its end: nobody else's. */
  readonly proven = new RangeSet();
  /** Checked erased finds by the place of their first byte. */
  readonly #startingAt = new Map<number, string>();
  /** Erased finds whose format nothing checks: where they lie, if their bytes are really theirs. */
  readonly unproven: { id: string; extents: readonly Extent[] }[] = [];
  /** Ids of present files by the place of their first byte, with their size. */
  readonly #presentAt = new Map<number, { id: string; size: number }>();
  /** Ids of erased files by place and size, as their entries tell. */
  readonly #entries = new Map<string, string>();

  notePresent(file: ListedFile): void {
    if (file.firstByte !== null) this.#presentAt.set(file.firstByte, { id: idOf(file), size: file.size });
  }

  noteErased(file: ListedFile, id: string): void {
    this.#entries.set(placeKey(file), id);
  }

  /** The find that an erased entry speaks of, where it is known already: `moved` when that file is still present. */
  spokenOf(file: ListedFile): { id: string; moved: boolean } | null {
    const now = file.firstByte === null ? undefined : this.#presentAt.get(file.firstByte);
    if (now && now.size === file.size) return { id: now.id, moved: true };
    const id = this.#entries.get(placeKey(file));
    return id === undefined ? null : { id, moved: false };
  }

  /** The checked erased find that begins at this byte. */
  startingAt(offset: number): string | undefined {
    return this.#startingAt.get(offset);
  }

  add(find: Find): void {
    if (find.state !== "erased" || find.extents.length === 0 || find.inside) return;
    if (!find.checked) this.unproven.push({ id: find.id, extents: find.extents });
    else if (find.condition !== "remnant") {
      this.#startingAt.set(find.extents[0].offset, find.id);
      if (find.condition !== "damaged") for (const { offset, length } of find.extents) this.proven.add(offset, length);
    }
  }

  /** How many bytes of these extents are proven to be another's, and whether the first byte is among them. */
  takenOf(extents: readonly Extent[]): { bytes: number; of: number; head: boolean } {
    const bytes = extents.reduce((sum, { offset, length }) => sum + this.proven.overlap(offset, length), 0);
    return { bytes, of: totalLength(extents), head: this.proven.overlap(extents[0].offset, 1) > 0 };
  }
}
