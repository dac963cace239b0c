import type { Extent } from "./extents.ts";
import { RangeSet } from "./ranges.ts";
import { type ByteSource, checkRange, UnreadableError } from "./source.ts";

/** A copy with places that were never read when it was made. */
export interface HoledSource extends ByteSource {
  readonly holes: readonly Extent[];
  /** What stands in its file, zeros in the holes' places. */
  readonly beneath: ByteSource;
}

/**
 * A copy whose holes are known: reading one fails for good, so that the zeros in its place never count as content. `size`: of what
 * was copied; what the file lacks to it was never copied.
 */
export function holedSource(file: ByteSource, known: readonly Extent[], size = file.size): HoledSource {
  const ranges = new RangeSet();
  for (const { offset, length } of known) ranges.add(offset, length);
  if (size > file.size) ranges.add(file.size, size - file.size);
  const inFile = async (offset: number, length: number): Promise<Uint8Array> => {
    const there = Math.max(0, Math.min(length, file.size - offset));
    if (there === length) return file.read(offset, length);
    const bytes = new Uint8Array(length);
    if (there > 0) bytes.set(await file.read(offset, there));
    return bytes;
  };
  return {
    name: file.name,
    size,
    holes: ranges.list(),
    beneath: { name: file.name, size, read: inFile },
    async read(offset, length) {
      checkRange(this, offset, length);
      const [lost] = ranges.within(offset, length);
      if (lost) throw new UnreadableError(lost.offset, lost.length, "it was never read when the copy was made", true);
      return file.read(offset, length);
    },
  };
}
