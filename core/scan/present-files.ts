import { type Extent, extentsSource, totalLength } from "../bytes/extents.ts";
import type { ByteSource } from "../bytes/source.ts";
import type { ListedFile } from "../filesystems/volume.ts";

/** Bytes compared at a time. */
const PIECE = 256 * 1024;
/** Files of one size that a content is held against: more of them say nothing new. */
const MOST = 64;

/** Where present files lie, by size: what an erased find must differ from. */
export class PresentFiles {
  readonly #bySize = new Map<number, { at: number; extents: readonly Extent[] }[]>();

  note({ at, size, placements: [placement] }: ListedFile): void {
    if (size === 0 || !placement || totalLength(placement.extents) !== size) return;
    const same = this.#bySize.get(size) ?? [];
    if (same.length === 0) this.#bySize.set(size, same);
    same.push({ at, extents: placement.extents });
  }

  /** The record's place of a present file with exactly these bytes; `only`: asked of the file of that record alone. */
  async sameAs(source: ByteSource, extents: readonly Extent[], only?: number): Promise<number | null> {
    const candidates = (this.#bySize.get(totalLength(extents)) ?? []).filter(({ at }) => only === undefined || at === only);
    for (const { at, extents: theirs } of candidates.slice(0, MOST)) if (await sameBytes(source, extents, theirs)) return at;
    return null;
  }
}

async function sameBytes(source: ByteSource, one: readonly Extent[], other: readonly Extent[]): Promise<boolean> {
  const [a, b] = [extentsSource(source, one), extentsSource(source, other)];
  for (let done = 0; done < a.size; done += PIECE) {
    const length = Math.min(PIECE, a.size - done);
    const [ours, theirs] = [await a.read(done, length), await b.read(done, length)];
    for (let index = 0; index < length; index++) if (ours[index] !== theirs[index]) return false;
  }
  return true;
}
