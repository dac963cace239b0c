import { type Extent, HOLE, hole } from "../../bytes/extents.ts";
import type { PatientSource } from "../../bytes/patient-source.ts";
import { openExt4Copy } from "../ext4/ext4-volume.ts";
import type { FileBatch, ListedFile, Placement } from "../volume.ts";

/** Where an ext4 volume began that was formatted over, its blocks, and the copy of its superblock that says so. */
export interface FormerExt4 {
  readonly offset: number;
  readonly unit: number;
  readonly copy: Uint8Array;
}

/** What of a stretch is free now: the rest was written over, and is a hole. */
class FreeNow {
  readonly #runs: readonly Extent[];

  constructor(runs: Iterable<Extent>) {
    this.#runs = [...runs].sort((a, b) => a.offset - b.offset);
  }

  /** The first run that ends behind this byte. */
  #from(offset: number): number {
    let [low, high] = [0, this.#runs.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.#runs[middle].offset + this.#runs[middle].length > offset) high = middle;
      else low = middle + 1;
    }
    return low;
  }

  cut({ extents, how, lost = 0 }: Placement): Placement {
    let over = lost;
    const left = extents.flatMap((extent) => {
      if (extent.offset === HOLE) return [extent];
      const parts: Extent[] = [];
      const end = extent.offset + extent.length;
      let at = extent.offset;
      for (let index = this.#from(at); index < this.#runs.length && this.#runs[index].offset < end; index++) {
        const run = this.#runs[index];
        const from = Math.max(at, run.offset);
        if (from > at) parts.push(hole(from - at));
        at = Math.min(end, run.offset + run.length);
        parts.push({ offset: from, length: at - from });
      }
      if (at < end) parts.push(hole(end - at));
      over += parts.reduce((sum, { offset, length }) => sum + (offset === HOLE ? length : 0), 0);
      return parts;
    });
    // A lost end is no hole: the content is shorter.
    for (let last = left.at(-1); over > lost && last?.offset === HOLE; last = left.at(-1)) {
      over -= last.length;
      left.pop();
    }
    return { extents: left, how, ...(over > 0 && { lost: over }) };
  }
}

/**
 * The files of an ext4 volume that was formatted over, as far as its inode tables and folders are left: all of them are erased now, and what was
 * written over since is a hole in them. Those without a name are left to the search by content: a block that was written over may read as an inode.
 */
export async function* formerExt4Files(
  { offset, unit, copy }: FormerExt4,
  source: PatientSource,
  length: number,
  free: Iterable<Extent>,
): AsyncGenerator<FileBatch> {
  const volume = await openExt4Copy(source, copy, offset, length);
  if (!volume) return;
  const now = new FreeNow(free);
  const former = (file: ListedFile): ListedFile => {
    const placements = file.placements.map((one) => now.cut(one));
    const isLeft = placements.some(({ extents }) => extents.some((extent) => extent.offset !== HOLE));
    return { ...file, erased: true, placements: isLeft ? placements : [], key: `former ${offset} ${file.key ?? file.at}` };
  };
  let told = false;
  for await (const { files } of volume.list()) {
    const named = files.filter(({ name }) => name !== null).map(former);
    if (named.length === 0) continue;
    const what = `an older ${volume.info.filesystem} volume lay here, with blocks of ${unit} bytes: a copy of its superblock and folders of it are left`;
    yield { files: named, troubles: told ? [] : [{ what, at: offset, length: 0 }] };
    told = true;
  }
}
