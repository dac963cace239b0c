import { type Extent, firstBytes, totalLength } from "../../bytes/extents.ts";
import type { BlockRun } from "../block-runs.ts";
import { extentBlockHolds, inodeSeed } from "./checks.ts";
import { has, type InodeVersion } from "./inode.ts";
import {
  EXTENT_MAGIC,
  ExtentHeader,
  ExtentIndex,
  ExtentLeaf,
  GOOD_OLD_INODE_SIZE,
  INIT_MAX_LEN,
  Inode,
  XATTR_MAGIC,
  XATTR_SYSTEM,
  XattrEntry,
} from "./layout.ts";

/** Stretches of one file, and tree blocks read for it, before we stop believing. */
const MAX_PIECES = 1 << 18;
const MAX_TREE_BLOCKS = 1 << 14;
/** Blocks that turn out to be no part of a tree before the tree is given up: one that was ever right leads to none. */
const MAX_FALSE = 16;
/** "the tree can be at most 5 levels deep" (Extent Tree). */
const MAX_DEPTH = 5;
/** Block numbers of a block map in an inode: 12 direct ones, then three levels. */
const DIRECT = 12;

/** What the map needs to know of the volume. */
export interface MapContext {
  readonly blockBytes: number;
  readonly blockCount: number;
  readonly seed: number | null;
  /** Reads a block of a tree as it was for this version of the inode, candidates likeliest first. */
  treeBlock(block: number): AsyncIterable<Uint8Array>;
}

export interface ContentMap {
  readonly runs: BlockRun[];
  /** Blocks of the tree itself. */
  readonly treeBlocks: number[];
  /** False where a part of the tree could not be read or made no sense. */
  readonly complete: boolean;
}

/** Blocks that a tree led to, and how many of them were none of its. */
interface TreeBlocks {
  readonly seen: Set<number>;
  false: number;
}

/** May this block be read as a part of the tree? It is noted then. */
function enters(tree: TreeBlocks, block: number, blockCount: number): boolean {
  if (block === 0 || block >= blockCount || tree.seen.size >= MAX_TREE_BLOCKS || tree.seen.has(block) || tree.false >= MAX_FALSE)
    return false;
  tree.seen.add(block);
  return true;
}

/** Where the content of an inode lies, by its extent tree or its block map. */
export async function mapContent(inode: InodeVersion, context: MapContext): Promise<ContentMap> {
  const runs: BlockRun[] = [];
  const treeBlocks: TreeBlocks = { seen: new Set(), false: 0 };
  const root = Inode.i_block(inode.bytes, 0);
  const complete = has(inode, "extents")
    ? await walkExtents(root, inode, context, runs, treeBlocks, MAX_DEPTH, 0)
    : await walkBlockMap(root, inode, context, runs, treeBlocks);
  runs.sort((a, b) => a.logical - b.logical);
  return { runs, treeBlocks: [...treeBlocks.seen], complete };
}

/** @returns false where something of this node could not be followed */
async function walkExtents(
  node: Uint8Array,
  inode: InodeVersion,
  context: MapContext,
  runs: BlockRun[],
  tree: TreeBlocks,
  depthLeft: number,
  from: number,
): Promise<boolean> {
  if (ExtentHeader.eh_magic(node, 0) !== EXTENT_MAGIC) return false;
  const entries = Math.min(ExtentHeader.eh_entries(node, 0), Math.floor((node.length - ExtentHeader.size) / 12));
  const depth = ExtentHeader.eh_depth(node, 0);
  if (depth > depthLeft) return false;
  let complete = true;
  let next = from;
  for (let entry = 0; entry < entries && runs.length < MAX_PIECES; entry++) {
    const at = ExtentHeader.size + 12 * entry;
    if (depth === 0) {
      const length = ExtentLeaf.ee_len(node, at);
      const unwritten = length > INIT_MAX_LEN;
      const count = unwritten ? length - INIT_MAX_LEN : length;
      const physical = ExtentLeaf.ee_start_hi(node, at) * 2 ** 32 + ExtentLeaf.ee_start_lo(node, at);
      const logical = ExtentLeaf.ee_block(node, at);
      if (count === 0 || logical < next || physical === 0 || physical + count > context.blockCount) {
        complete = false;
        continue;
      }
      next = logical + count;
      runs.push({ logical, physical: unwritten ? null : physical, count });
      continue;
    }
    const block = ExtentIndex.ei_leaf_hi(node, at) * 2 ** 32 + ExtentIndex.ei_leaf_lo(node, at);
    const logical = ExtentIndex.ei_block(node, at);
    if (!enters(tree, block, context.blockCount)) {
      complete = false;
      continue;
    }
    const to = entry + 1 < entries ? ExtentIndex.ei_block(node, at + 12) : Math.ceil(inode.size / context.blockBytes);
    const child = await bestNode(context.treeBlock(block), { depth: depth - 1, from: logical, to }, inode, context);
    if (!child) tree.false++;
    complete = child !== null && (await walkExtents(child, inode, context, runs, tree, depth - 1, logical)) && complete;
  }
  return complete;
}

/** What a node of an extent tree must be, as its parent says. */
interface Expected {
  readonly depth: number;
  /** First block of the file that it may tell of, and the one behind its last. */
  readonly from: number;
  readonly to: number;
}

/**
 * The likeliest copy of a tree block: of the right depth, beginning where its parent says, agreeing with its check sum.
 * The first that leads to all that is expected; else the one that leads furthest, since the journal forgets the newest first.
 */
async function bestNode(
  copies: AsyncIterable<Uint8Array>,
  expected: Expected,
  inode: InodeVersion,
  context: MapContext,
): Promise<Uint8Array | null> {
  let best: { node: Uint8Array; reaches: number } | null = null;
  for await (const copy of copies) {
    const entries = ExtentHeader.eh_entries(copy, 0);
    const last = ExtentHeader.size + 12 * (entries - 1);
    if (ExtentHeader.eh_magic(copy, 0) !== EXTENT_MAGIC || ExtentHeader.eh_depth(copy, 0) !== expected.depth || entries === 0) continue;
    if (last + 12 > copy.length || ExtentLeaf.ee_block(copy, ExtentHeader.size) < expected.from) continue;
    if (context.seed !== null && !extentBlockHolds(inodeSeed(context.seed, inode.number, inode.generation), copy)) continue;
    if (expected.depth > 0) return copy;
    const length = ExtentLeaf.ee_len(copy, last);
    const reaches = ExtentLeaf.ee_block(copy, last) + (length > INIT_MAX_LEN ? length - INIT_MAX_LEN : length);
    if (reaches >= expected.to) return copy;
    if (!best || reaches > best.reaches) best = { node: copy, reaches };
  }
  return best?.node ?? null;
}

/** "Direct/Indirect Block Addressing": 12 direct blocks, then one, two and three levels of blocks full of numbers. */
async function walkBlockMap(
  root: Uint8Array,
  inode: InodeVersion,
  context: MapContext,
  runs: BlockRun[],
  tree: TreeBlocks,
): Promise<boolean> {
  const perBlock = context.blockBytes / 4;
  const last = Math.ceil(inode.size / context.blockBytes);
  let complete = true;
  const number = (bytes: Uint8Array, index: number) => ExtentIndex.ei_block(bytes, index * 4);
  const add = (logical: number, physical: number) => {
    const run = runs.at(-1);
    if (physical === 0 || runs.length >= MAX_PIECES) return;
    if (physical >= context.blockCount) complete = false;
    else if (run && run.physical !== null && run.logical + run.count === logical && run.physical + run.count === physical)
      runs[runs.length - 1] = { ...run, count: run.count + 1 };
    else runs.push({ logical, physical, count: 1 });
  };
  const walk = async (block: number, level: number, from: number): Promise<void> => {
    if (block === 0 || from >= last) return;
    if (!enters(tree, block, context.blockCount)) {
      complete = false;
      return;
    }
    let bytes: Uint8Array | null = null;
    for await (const copy of context.treeBlock(block)) {
      bytes ??= copy;
      if (looksLikeNumbers(copy, context.blockCount)) {
        bytes = copy;
        break;
      }
    }
    if (!bytes || !looksLikeNumbers(bytes, context.blockCount)) {
      tree.false++;
      complete = false;
      return;
    }
    const span = perBlock ** level;
    for (let index = 0; index < perBlock && from + index * span < last; index++)
      if (level === 0) add(from + index, number(bytes, index));
      else await walk(number(bytes, index), level - 1, from + index * span);
  };
  for (let index = 0; index < DIRECT && index < last; index++) add(index, number(root, index));
  let from = DIRECT;
  for (let level = 0; level < 3; level++) {
    await walk(number(root, DIRECT + level), level, from);
    from += perBlock ** (level + 1);
  }
  return complete;
}

const looksLikeNumbers = (bytes: Uint8Array, blockCount: number): boolean => {
  let some = false;
  for (let at = 0; at < bytes.length; at += 4) {
    const block = ExtentIndex.ei_block(bytes, at);
    if (block >= blockCount) return false;
    some ||= block !== 0;
  }
  return some;
};

/** "Inline Data": the first 60 bytes where block numbers would stand, the rest in the attribute "system.data". */
export function inlineExtents(inode: InodeVersion): Extent[] {
  const extents: Extent[] = [{ offset: inode.at + Inode.i_block.at, length: Math.min(inode.size, Inode.i_block.bytes) }];
  const rest = inlineRest(inode);
  if (rest && inode.size > Inode.i_block.bytes) extents.push({ offset: inode.at + rest.at, length: rest.length });
  return firstBytes(extents, Math.min(inode.size, totalLength(extents)));
}

/** Where the attribute "system.data" keeps its value, within the inode's bytes. */
export function inlineRest({ bytes }: InodeVersion): { at: number; length: number } | null {
  const header = GOOD_OLD_INODE_SIZE + Inode.i_extra_isize(bytes, 0);
  if (header + 4 > bytes.length || ExtentIndex.ei_block(bytes, header) !== XATTR_MAGIC) return null;
  const first = header + 4;
  for (let at = first; at + XattrEntry.size <= bytes.length; ) {
    const nameLength = XattrEntry.e_name_len(bytes, at);
    const index = XattrEntry.e_name_index(bytes, at);
    if (nameLength === 0 && index === 0) return null;
    const name = String.fromCharCode(...bytes.subarray(at + XattrEntry.size, at + XattrEntry.size + nameLength));
    const value = first + XattrEntry.e_value_offs(bytes, at);
    const length = XattrEntry.e_value_size(bytes, at);
    if (index === XATTR_SYSTEM && name === "data" && value + length <= bytes.length) return { at: value, length };
    at += (XattrEntry.size + nameLength + 3) & ~3;
  }
  return null;
}
