import { type Extent, HOLE, hole } from "../../bytes/extents.ts";
import type { PatientSource } from "../../bytes/patient-source.ts";
import { RangeSet } from "../../bytes/ranges.ts";
import { openExt4Copy } from "../ext4/ext4-volume.ts";
import type { FileBatch, ListedFile, Placement } from "../volume.ts";

/** Where an ext4 volume began that was formatted over, its blocks, and the copy of its superblock that says so. */
export interface FormerExt4 {
  readonly offset: number;
  readonly unit: number;
  readonly copy: Uint8Array;
}

/** A placement as it is now: what is in use by others is a hole in it, or its lost end. */
function cutToFree({ extents, how, lost = 0 }: Placement, free: RangeSet): Placement {
  let over = lost;
  const left = extents.flatMap((extent) => {
    if (extent.offset === HOLE) return [extent];
    const parts: Extent[] = [];
    const lose = (length: number) => {
      if (length > 0) parts.push(hole(length));
      over += length;
    };
    let at = extent.offset;
    for (const part of free.within(extent.offset, extent.length)) {
      lose(part.offset - at);
      parts.push(part);
      at = part.offset + part.length;
    }
    lose(extent.offset + extent.length - at);
    return parts;
  });
  // A lost end is no hole: the content is shorter.
  for (let last = left.at(-1); over > lost && last?.offset === HOLE; last = left.at(-1)) {
    over -= last.length;
    left.pop();
  }
  return { extents: left, how, ...(over > 0 && { lost: over }) };
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
  const now = new RangeSet();
  for (const run of free) now.add(run.offset, run.length);
  const former = (file: ListedFile): ListedFile => {
    const placements = file.placements.map((one) => cutToFree(one, now));
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
