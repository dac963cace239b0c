import { type Extent, extentsSource, onMedium } from "../../bytes/extents.ts";
import { blockAt, isPartOf, leftOf } from "../block-runs.ts";
import { COMPRESSED_FILE, ENCRYPTED_FILE } from "../sealed.ts";
import type { ListedFile, Trace } from "../volume.ts";
import { inlineExtents, mapContent, type NodeRun } from "./content-map.ts";
import type { Disk } from "./disk.ts";
import { BLOCK_BYTES } from "./layout.ts";
import type { Names } from "./names.ts";
import type { InodeNode } from "./node.ts";
import type { OldNodes } from "./old-nodes.ts";

/** What stands under an inode number. */
export interface StandingFile {
  readonly inode: InodeNode;
  /** Place of its entry: the id of its find. */
  readonly at: number;
  readonly runs: readonly NodeRun[];
  readonly extents: readonly Extent[];
}

/** A content that a file had, which no file has now. */
interface Former {
  readonly inode: InodeNode;
  readonly life: string;
  readonly runs: readonly NodeRun[];
  readonly complete: boolean;
  readonly compressed: boolean;
  readonly earlier: boolean;
  readonly standing: StandingFile | null;
  /** How many copies of the inode the log still holds. */
  readonly copies: number;
}

/** Earlier contents of one file that are told of: a database that is written all day leaves hundreds. */
const MAX_EARLIER = 12;
/** Blocks whose bytes are compared to tell a file that grew from one that was written anew. */
const MAX_COMPARED = 64;

/** A number is given out again: the same file has the same generation. */
const lifeOf = ({ ino, generation }: InodeNode): string => `${ino}:${generation}`;

interface Kept {
  readonly runs: readonly NodeRun[];
  readonly size: number;
  /** Inline content: its bytes. */
  readonly inline: Uint8Array | null;
}

/** Contents of erased files and earlier contents of present ones, from all copies of their inodes. */
async function formerContents(disk: Disk, old: OldNodes, standing: ReadonlyMap<number, StandingFile>): Promise<Former[]> {
  const formers: Former[] = [];
  for (const [ino, copies] of old.inodes) {
    const lives = new Map<string, InodeNode[]>();
    for (const inode of copies) {
      if (inode.mode !== "regular") continue;
      const own = lives.get(lifeOf(inode));
      if (own) own.push(inode);
      else lives.set(lifeOf(inode), [inode]);
    }
    const now = standing.get(ino);
    const ordered = [...lives];
    for (const [index, [life, own]] of ordered.entries()) {
      const stands = now && lifeOf(now.inode) === life ? now : null;
      const kept: Kept[] = stands ? [await keptOf(disk, stands.inode, stands.runs)] : [];
      const until = (ordered[index + 1]?.[1][0].version ?? Number.MAX_SAFE_INTEGER) - 1;
      for (const inode of [...own].reverse()) {
        if (inode.size === 0 || kept.length > MAX_EARLIER) continue;
        const block = await old.block(inode.address);
        if (!block) continue;
        const newest = kept.length === 0;
        const { runs, complete, compressed } = inode.inlineData
          ? { runs: [], complete: true, compressed: false }
          : await mapContent(
              inode,
              block,
              (address) => disk.tables.isInMain(address),
              (nid) => old.nodeAt(nid, ino, newest ? until : inode.version),
            );
        if (!inode.inlineData && !compressed && !runs.some(({ physical }) => physical !== null)) continue;
        const mine = await keptOf(disk, inode, runs);
        if (await isOneOf(disk, mine, kept)) continue;
        formers.push({ inode, life, runs, complete, compressed, earlier: kept.length > 0, standing: stands, copies: own.length });
        kept.push(mine);
      }
    }
  }
  return formers.sort((a, b) => b.inode.version - a.inode.version || b.inode.changed - a.inode.changed || a.inode.ino - b.inode.ino);
}

async function keptOf(disk: Disk, inode: InodeNode, runs: readonly NodeRun[]): Promise<Kept> {
  const content = inode.inlineData ? extentsSource(disk.source, inlineExtents(inode, disk.offsetOf(inode.address))) : null;
  return { runs, size: inode.size, inline: content && (await content.read(0, content.size)) };
}

/** Is this content a beginning of one that is kept? F2FS writes the last block of a growing file anew: few blocks are compared by their bytes. */
async function isOneOf(disk: Disk, mine: Kept, kept: readonly Kept[]): Promise<boolean> {
  for (const other of kept) {
    if (mine.size > other.size) continue;
    if (!mine.inline && !other.inline && isPartOf(mine.runs, mine.size, other.runs, other.size)) return true;
    if (await beginsTheSame(disk, mine, other)) return true;
  }
  return false;
}

async function beginsTheSame(disk: Disk, mine: Kept, other: Kept): Promise<boolean> {
  const blocks = Math.ceil(mine.size / BLOCK_BYTES);
  const blockOf = async (kept: Kept, logical: number): Promise<Uint8Array | null> => {
    if (kept.inline) return kept.inline.subarray(logical * BLOCK_BYTES);
    const address = blockAt(kept.runs, logical);
    return address === null ? null : disk.block(address);
  };
  let compared = 0;
  for (let logical = 0; logical < blocks; logical++) {
    if (!mine.inline && !other.inline && blockAt(mine.runs, logical) === blockAt(other.runs, logical)) continue;
    if (++compared > MAX_COMPARED) return false;
    const [ours, theirs] = [await blockOf(mine, logical), await blockOf(other, logical)];
    const length = Math.min(BLOCK_BYTES, mine.size - logical * BLOCK_BYTES);
    if (!ours || !theirs || ours.length < length || theirs.length < length) return false;
    for (let index = 0; index < length; index++) if (ours[index] !== theirs[index]) return false;
  }
  return true;
}

/** Former contents as files of a list: names from their own inodes and old lists, places cut to what was not written over. */
export async function listErased(
  disk: Disk,
  old: OldNodes,
  names: Names,
  standing: ReadonlyMap<number, StandingFile>,
): Promise<ListedFile[]> {
  const files: ListedFile[] = [];
  const claimed = new Map<number, string>();
  for (const former of await formerContents(disk, old, standing)) {
    const { inode, runs, life, complete } = former;
    const found = names.of(inode);
    const { extents, lost } = inode.inlineData
      ? { extents: inlineExtents(inode, disk.offsetOf(inode.address)), lost: 0 }
      : await leftOfFormer(former, disk, claimed);
    const first = runs.find(({ physical }) => physical !== null)?.physical ?? null;
    const sealed = inode.encrypted ? ENCRYPTED_FILE : former.compressed ? COMPRESSED_FILE : undefined;
    files.push({
      at: disk.offsetOf(inode.address),
      erased: true,
      name: found.name,
      path: found.path,
      size: inode.size,
      modified: inode.modified,
      placements: onMedium(extents).length > 0 ? [{ extents, lost, how: howOf(former, complete) }] : [],
      firstByte: first === null ? null : disk.offsetOf(first),
      traces: tracesOf(former, disk, found.place),
      key: `${life}:${inode.address}`,
      ...(former.standing && { earlierOf: former.standing.at }),
      ...(sealed !== undefined && { sealed }),
    });
  }
  return files;
}

function howOf({ runs, inode }: Former, complete: boolean): string {
  if (inode.inlineData) return "its content is kept inside that block";
  const pieces = runs.filter(({ physical }) => physical !== null).length;
  return `its addresses lead to ${pieces} ${pieces === 1 ? "run" : "runs"} of blocks${complete ? "" : "; a node that it hangs on is lost"}`;
}

function tracesOf({ inode, earlier, copies }: Former, disk: Disk, place: number | null): Trace[] {
  const traces = [
    {
      what: `an old node block of inode ${inode.ino}, written after checkpoint ${inode.version}${earlier ? ": how the file was before it was written anew" : ""}`,
      at: disk.offsetOf(inode.address),
    },
  ];
  if (copies > 1) traces.push({ what: `one of ${copies} copies of its inode that the log still holds`, at: disk.offsetOf(inode.address) });
  if (place !== null) traces.push({ what: "an entry given up in a folder list names it", at: place });
  return traces;
}

/**
 * A block is still the file's where no file that stands has it, the summary of its segment says that the file's own node wrote
 * it last, and no younger erased file leads to it.
 */
async function leftOfFormer({ runs, life, complete, inode, standing }: Former, disk: Disk, claimed: Map<number, string>) {
  const mine = new Set<number>();
  // Unlinked while it was open, and not yet cleared away: its node still stands, and the blocks in use are its own.
  const isOrphan = standing === null && disk.tables.addressOf(inode.ino) === inode.address;
  for (const { logical, physical, count, nid, place } of runs)
    for (let index = 0; physical !== null && index < count; index++) {
      const address = physical + index;
      const shared = standing !== null && blockAt(standing.runs, logical + index) === address;
      if (!shared) {
        if (disk.tables.isValid(address) && !isOrphan) continue;
        const writer = await disk.tables.writerOf(address);
        if (writer && (writer.nid !== nid || writer.place !== place + index)) continue;
      }
      const owner = claimed.get(address);
      if (owner !== undefined && owner !== life) continue;
      claimed.set(address, life);
      mine.add(address);
    }
  return leftOf(runs, inode.size, { ...disk.space, complete }, (_, physical) => mine.has(physical));
}
