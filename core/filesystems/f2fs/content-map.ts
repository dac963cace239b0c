import { type Extent, firstBytes } from "../../bytes/extents.ts";
import type { BlockRun } from "../block-runs.ts";
import { ADDRS_PER_BLOCK, Address, BLOCK_BYTES, NIDS_PER_BLOCK, word } from "./layout.ts";
import { type InodeNode, inlineAt, inlineBytes } from "./node.ts";

/** A run of blocks with the node that leads to it: what the summaries know a block's owner by. */
export interface NodeRun extends BlockRun {
  readonly nid: number;
  /** Place of the run's first address in its node. */
  readonly place: number;
}

/** A run while it grows. */
type Mutable = { -readonly [Key in keyof NodeRun]: NodeRun[Key] };

export interface ContentMap {
  readonly runs: NodeRun[];
  /** False where a node that it hangs on is lost. */
  readonly complete: boolean;
  readonly compressed: boolean;
}

/** Nodes read for one file before we stop believing, and runs of it. */
const MAX_NODES = 1 << 16;
const MAX_RUNS = 1 << 19;

/** Where a file's content lies: addresses in its inode, then in direct nodes, one and two levels of indirect ones. */
export async function mapContent(
  inode: InodeNode,
  block: Uint8Array,
  inMain: (address: number) => boolean,
  /** The block of a node of this inode, or null where it is lost. */
  nodeBlock: (nid: number) => Promise<Uint8Array | null>,
): Promise<ContentMap> {
  const runs: NodeRun[] = [];
  const last = Math.ceil(inode.size / BLOCK_BYTES);
  const seen = new Set<number>();
  let complete = true;
  let compressed = inode.compressed;
  let logical = 0;
  const take = (bytes: Uint8Array, at: number, count: number, nid: number) => {
    let run: Mutable | null = null;
    for (let index = 0; index < count && logical < last; index++, logical++) {
      const address = word(bytes, at + index * 4);
      if (address === Address.null) continue;
      if (address === Address.compressed) {
        compressed = true;
        continue;
      }
      const physical = address === Address.new ? null : address;
      if (physical !== null && !inMain(physical)) {
        complete = false;
        continue;
      }
      const goesOn = run !== null && run.logical + run.count === logical;
      if (run && goesOn && (run.physical === null ? physical === null : physical === run.physical + run.count)) run.count++;
      else if (runs.length < MAX_RUNS) {
        run = { logical, physical, count: 1, nid, place: index };
        runs.push(run);
      }
    }
  };
  const walk = async (nid: number, level: number): Promise<void> => {
    const span = ADDRS_PER_BLOCK * NIDS_PER_BLOCK ** level;
    if (logical >= last) return;
    const known = nid !== 0 && !seen.has(nid) && seen.size < MAX_NODES;
    const bytes = known ? await nodeBlock(nid) : null;
    if (nid !== 0) seen.add(nid);
    if (!bytes) {
      if (nid !== 0) complete = false;
      logical += span;
      return;
    }
    if (level === 0) take(bytes, 0, ADDRS_PER_BLOCK, nid);
    else for (let index = 0; index < NIDS_PER_BLOCK && logical < last; index++) await walk(word(bytes, index * 4), level - 1);
  };
  take(block, inode.addressesAt, inode.addresses, inode.ino);
  for (const [index, nid] of inode.nids.entries()) await walk(nid, [0, 0, 1, 1, 2][index]);
  return { runs, complete, compressed };
}

/** Content inside the inode's block, which begins at absolute byte `blockAt`. */
export const inlineExtents = (inode: InodeNode, blockAt: number): Extent[] =>
  firstBytes([{ offset: blockAt + inlineAt(inode), length: inlineBytes(inode) }], inode.size);
