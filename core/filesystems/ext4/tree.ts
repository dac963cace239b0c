import type { Trouble } from "../../bytes/trouble.ts";
import { type BlockRun, extentsOf } from "../block-runs.ts";
import { inlineExtents, inlineRest, mapContent } from "./content-map.ts";
import { type Name, readInlineFolder } from "./directory.ts";
import type { Disk } from "./disk.ts";
import { type History, NOW } from "./history.ts";
import { has, type InodeVersion } from "./inode.ts";
import { Inode } from "./layout.ts";

/** "Special inodes": the root folder. */
export const ROOT = 2;
/** "Inline Directories": the number of the parent's inode stands first. */
const PARENT_BYTES = 4;
/** A folder's list before we stop believing, in bytes. */
const MAX_FOLDER_BYTES = 256 * 1024 * 1024;

/** A name that stands, with the folder it stands in and the place of its entry. */
export interface Standing extends Name {
  readonly folder: number;
  readonly place: number;
}

/** Maps the content of an inode as it stands. */
export const mapNow = (disk: Disk, inode: InodeVersion) =>
  mapContent(inode, {
    ...contextOf(disk),
    async *treeBlock(block) {
      const bytes = await disk.treeBlock(block);
      if (bytes) yield bytes;
    },
  });

/** Maps the content of an older version of an inode through tree blocks as they were then. */
export const mapThen = (disk: Disk, history: History, inode: InodeVersion, until: number) =>
  mapContent(inode, { ...contextOf(disk), treeBlock: (block) => history.asItWas(block, until) });

const contextOf = ({ geometry: { blockBytes, blockCount, seed } }: Disk) => ({ blockBytes, blockCount, seed });

/** The entries of a folder that stands. What is read on the way is told to the history: slack holds older names. */
export async function readFolder(
  disk: Disk,
  history: History,
  folder: InodeVersion,
  path: string,
): Promise<{ names: Standing[]; runs: BlockRun[]; troubles: Trouble[] }> {
  if (has(folder, "inline_data")) {
    const rest = inlineRest(folder);
    const own = { at: Inode.i_block.at + PARENT_BYTES, length: Inode.i_block.bytes - PARENT_BYTES };
    const names = readInlineFolder(folder.bytes, rest ? [own, rest] : [own], disk.geometry.inodeCount);
    return {
      names: names.filter(({ live }) => live).map((name) => ({ ...name, folder: folder.number, place: folder.at + name.at })),
      runs: [],
      troubles: [],
    };
  }
  const { runs, complete } = await mapNow(disk, folder);
  const troubles: Trouble[] = complete
    ? []
    : [{ what: `the list of ${path} cannot be followed to its end`, at: folder.at, length: disk.geometry.inodeBytes }];
  const names: Standing[] = [];
  const { blockBytes } = disk.geometry;
  let left = Math.min(folder.size, MAX_FOLDER_BYTES) / blockBytes;
  for (const { physical, count } of runs)
    for (let index = 0; physical !== null && index < count && left > 0; index++, left--) {
      const block = physical + index;
      const bytes = await disk.block(block);
      if (!bytes) continue;
      const place = disk.placeOf(block);
      const lost = disk.source.unreadable.overlap(place, blockBytes);
      if (lost > 0)
        troubles.push({
          what: `${lost} bytes of the list of ${path} cannot be read: files named there are missing`,
          at: place,
          length: blockBytes,
        });
      const read = history.takeFolderBlock(bytes, block, NOW, place, folder) ?? history.takeFolderBlock(bytes, block, NOW, place, null);
      if (read)
        names.push(...read.names.filter(({ live }) => live).map((name) => ({ ...name, folder: folder.number, place: place + name.at })));
      if (!read?.filled && !isIndexBlock(bytes))
        troubles.push({ what: `a part of the list of ${path} is broken`, at: place, length: blockBytes });
    }
  return { names, runs, troubles };
}

/** An inner block of a folder's index ("Hash Tree Directories") pretends to be one empty entry; so does an empty list block. */
const isIndexBlock = (bytes: Uint8Array): boolean => bytes.subarray(0, 4).every((byte) => byte === 0);

/** Where the content of a file that stands lies. */
export async function placementNow(disk: Disk, inode: InodeVersion) {
  if (has(inode, "inline_data"))
    return { extents: inlineExtents(inode), runs: [] as BlockRun[], how: "its content is kept inside its inode", complete: true };
  const { runs, complete } = await mapNow(disk, inode);
  const pieces = runs.filter(({ physical }) => physical !== null).length;
  const how = `${has(inode, "extents") ? "its extent tree" : "its block map"} leads to ${pieces} ${pieces === 1 ? "run" : "runs"} of blocks`;
  return { extents: extentsOf(runs, inode.size, disk.space), runs, how, complete };
}
