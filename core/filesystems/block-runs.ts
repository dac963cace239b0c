import { type Extent, firstBytes, HOLE, hole, totalLength } from "../bytes/extents.ts";

/** A run of a file's blocks: from block `logical` of the file on, at block `physical` of the volume (null: reads as zeros). */
export interface BlockRun {
  readonly logical: number;
  readonly physical: number | null;
  readonly count: number;
}

/** What turning runs into stretches needs to know of a volume, in bytes. */
export interface BlockSpace {
  readonly blockBytes: number;
  /** Absolute byte of block 0. */
  readonly start: number;
  /** A content of more bytes than this is a damaged record: it is cut where its zeros would run over. */
  readonly most: number;
}

/** Runs as stretches of the source for a content of `size` bytes: what no run covers reads as zeros. */
export function extentsOf(runs: readonly BlockRun[], size: number, { blockBytes, start, most }: BlockSpace): Extent[] {
  const extents: Extent[] = [];
  let done = 0;
  for (const { logical, physical, count } of runs) {
    const at = logical * blockBytes;
    if (at >= size) break;
    if (at > most) return firstBytes(extents, size);
    if (at > done) extents.push(hole(at - done));
    const length = count * blockBytes;
    extents.push(physical === null ? hole(length) : { offset: start + physical * blockBytes, length });
    done = at + length;
  }
  if (done < size && size <= most) extents.push(hole(size - done));
  return firstBytes(extents, size);
}

/** Block of the volume that holds block `logical` of a file, or null. Runs are in order. */
export function blockAt(runs: readonly BlockRun[], logical: number): number | null {
  let low = 0;
  let high = runs.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (runs[middle].logical + runs[middle].count <= logical) low = middle + 1;
    else high = middle;
  }
  const run = runs[low];
  return run && run.logical <= logical && run.physical !== null ? run.physical + logical - run.logical : null;
}

/** Is all that `older` leads to also where `newer` leads, at the same places of the file? Then it is the same file, growing. */
export function isPartOf(older: readonly BlockRun[], olderSize: number, newer: readonly BlockRun[], newerSize: number): boolean {
  if (olderSize > newerSize) return false;
  let index = 0;
  for (const run of older) {
    if (run.physical === null) continue;
    for (let done = 0; done < run.count; ) {
      const logical = run.logical + done;
      while (index < newer.length && newer[index].logical + newer[index].count <= logical) index++;
      const other = newer[index];
      if (
        !other ||
        other.logical > logical ||
        other.physical === null ||
        other.physical + (logical - other.logical) !== run.physical + done
      )
        return false;
      done += Math.min(run.count - done, other.logical + other.count - logical);
    }
  }
  return true;
}

/**
 * The stretches of a former content that nobody else has now; `mine` says so of each block. What others have is a hole; a
 * lost end is cut off. `lost`: bytes of those holes. `complete`: false where unmapped blocks are lost, and no zeros.
 */
export function leftOf(
  runs: readonly BlockRun[],
  size: number,
  { blockBytes, start, most, complete }: BlockSpace & { readonly complete: boolean },
  mine: (logical: number, physical: number) => boolean,
): { extents: Extent[]; lost: number } {
  const pieces: { extent: Extent; isLost: boolean }[] = [];
  let done = 0;
  for (const { logical, physical, count } of runs) {
    const at = logical * blockBytes;
    if (at >= size || at > most) break;
    if (at > done) pieces.push({ extent: hole(at - done), isLost: !complete });
    for (let index = 0; index < count && (logical + index) * blockBytes < size; index++) {
      const ours = physical !== null && mine(logical + index, physical + index);
      const extent = ours ? { offset: start + (physical + index) * blockBytes, length: blockBytes } : hole(blockBytes);
      pieces.push({ extent, isLost: physical !== null && !ours });
    }
    done = at + count * blockBytes;
  }
  if (done < size && size <= most) pieces.push({ extent: hole(size - done), isLost: !complete });
  while (pieces.at(-1)?.isLost) pieces.pop();
  const extents = firstBytes(
    pieces.map(({ extent }) => extent),
    size,
  );
  const lost = pieces.reduce((sum, { extent, isLost }) => sum + (isLost && extent.offset === HOLE ? extent.length : 0), 0);
  return { extents, lost: Math.min(lost, totalLength(extents)) };
}

/**
 * Runs of blocks that are not in use. `isUsed` tells of a block; `isFull` of the eight of a byte of the bitmap, so that full
 * stretches cost little.
 */
export function* freeBlocks(
  count: number,
  isUsed: (block: number) => boolean,
  isFull: (byte: number) => boolean,
): Generator<{ first: number; count: number }> {
  for (let block = 0; block < count; ) {
    if ((block & 7) === 0 && isFull(block >> 3)) block += 8;
    else if (isUsed(block)) block++;
    else {
      const first = block;
      while (block < count && !isUsed(block)) block++;
      yield { first, count: block - first };
    }
  }
}
