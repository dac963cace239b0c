import { lastAtOrBefore } from "./parts-source.ts";
import { type ByteSource, checkRange } from "./source.ts";

/** A stretch of the source: absolute byte offset and length in bytes. Offset HOLE: zeros that lie nowhere. */
export interface Extent {
  readonly offset: number;
  readonly length: number;
}

/** Offset of a stretch that reads as zeros: never written (a sparse file), or its place was given to another. */
export const HOLE = -1;
export const hole = (length: number): Extent => ({ offset: HOLE, length });

/** The stretches that lie somewhere. */
export const onMedium = (extents: readonly Extent[]): Extent[] => extents.filter(({ offset }) => offset !== HOLE);

export const totalLength = (extents: readonly Extent[]): number => extents.reduce((sum, extent) => sum + extent.length, 0);

/** Does this stretch go on where that one ends? */
const follows = (before: Extent, after: Extent): boolean =>
  before.offset === HOLE || after.offset === HOLE ? before.offset === after.offset : before.offset + before.length === after.offset;

/** The first `length` bytes of what the extents hold, neighbours joined. */
export function firstBytes(extents: readonly Extent[], length: number): Extent[] {
  const taken: { offset: number; length: number }[] = [];
  let left = length;
  for (const extent of extents) {
    if (left <= 0) break;
    const part = Math.min(left, extent.length);
    const last = taken.at(-1);
    if (last && follows(last, extent)) last.length += part;
    else if (part > 0) taken.push({ offset: extent.offset, length: part });
    left -= part;
  }
  return taken;
}

/** Absolute offset on the source of byte `at` of the content, or the end of the last extent. */
export function placeOf(extents: readonly Extent[], at: number): number {
  let left = at;
  for (const extent of extents) {
    if (left < extent.length && extent.offset !== HOLE) return extent.offset + left;
    left = Math.max(0, left - extent.length);
  }
  const last = onMedium(extents).at(-1);
  return last ? last.offset + last.length : 0;
}

/** The content that lies in these extents, one after the other, as a source of its own. */
export function extentsSource(source: ByteSource, extents: readonly Extent[], name = source.name): ByteSource {
  const starts = new Float64Array(extents.length + 1);
  extents.forEach((extent, index) => {
    starts[index + 1] = starts[index] + extent.length;
  });
  const size = starts[extents.length];
  return {
    name,
    size,
    async read(offset, length) {
      checkRange(this, offset, length);
      if (length === 0) return new Uint8Array(0);
      let index = lastAtOrBefore(starts, extents.length, offset);
      const within = offset - starts[index];
      if (within + length <= extents[index].length)
        return extents[index].offset === HOLE ? new Uint8Array(length) : source.read(extents[index].offset + within, length);
      const whole = new Uint8Array(length);
      for (let done = 0; done < length; index++) {
        const skip = offset + done - starts[index];
        const part = Math.min(length - done, extents[index].length - skip);
        if (extents[index].offset !== HOLE) whole.set(await source.read(extents[index].offset + skip, part), done);
        done += part;
      }
      return whole;
    },
  };
}

/** A part of another source, counted from its own start. */
export const sliceSource = (source: ByteSource, offset: number, length: number, name = source.name): ByteSource =>
  extentsSource(source, [{ offset, length }], name);
