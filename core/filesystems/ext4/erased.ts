import { onMedium } from "../../bytes/extents.ts";
import { type BlockRun, blockAt, isPartOf, leftOf } from "../block-runs.ts";
import { ENCRYPTED_FILE } from "../sealed.ts";
import type { ListedFile, Trace } from "../volume.ts";
import { inlineExtents } from "./content-map.ts";
import type { Disk } from "./disk.ts";
import { type History, NOW, type Seen } from "./history.ts";
import { has, type InodeVersion, isAlive } from "./inode.ts";
import { Inode } from "./layout.ts";
import type { FoundName, Names } from "./names.ts";
import { mapThen } from "./tree.ts";

/** A content that a file had, which no file has now. */
interface Former {
  readonly seen: Seen;
  /** The transactions in which this file had the number. */
  readonly from: number;
  readonly until: number;
  readonly life: string;
  readonly runs: readonly BlockRun[];
  readonly complete: boolean;
  /** The file still stands, or has a younger erased content: this is an earlier version of it. */
  readonly earlier: boolean;
  /** Record of the file as it stands. */
  readonly standing: number | null;
}

/** What stands of an inode number: the file, and where its blocks lie. */
export interface StandingFile {
  readonly inode: InodeVersion;
  /** Place of its entry: the id of its find. */
  readonly at: number;
  readonly runs: readonly BlockRun[];
  readonly name: string | null;
  readonly path: string | null;
}

/** A number is given out again: the same file has the same generation, and was made at the same time. */
const lifeOf = (inode: InodeVersion): string =>
  `${inode.generation}:${inode.bytes.length >= Inode.i_crtime.at + 4 ? Inode.i_crtime(inode.bytes, 0) : 0}`;

/** Contents of erased files and earlier contents of present ones, from all versions of their inodes. */
async function formerContents(disk: Disk, history: History, standing: ReadonlyMap<number, StandingFile>): Promise<Former[]> {
  const formers: Former[] = [];
  for (const [number, versions] of history.versions) {
    if (number < disk.geometry.firstInode) continue;
    const lives = new Map<string, Seen[]>();
    for (const seen of versions) {
      if (seen.inode.mode !== "regular") continue;
      const life = lifeOf(seen.inode);
      const own = lives.get(life);
      if (own) own.push(seen);
      else lives.set(life, [seen]);
    }
    const now = standing.get(number);
    const ordered = [...lives];
    for (const [index, [life, own]] of ordered.entries()) {
      const stands = now && lifeOf(now.inode) === life ? now : null;
      const kept: { runs: readonly BlockRun[]; size: number }[] = stands ? [{ runs: stands.runs, size: stands.inode.size }] : [];
      const from = own[0].from;
      // Its names are those of the time until another file got its number.
      const next = ordered[index + 1]?.[1][0].from;
      const until = (next ?? NOW) - 1;
      for (const seen of [...own].reverse()) {
        const { inode } = seen;
        if (inode.size === 0 || has(inode, "ea_inode")) continue;
        if (has(inode, "inline_data")) {
          if (stands || kept.length > 0 || !isAlive(inode)) continue;
          kept.push({ runs: [], size: inode.size });
          formers.push({ seen, from, until, life, runs: [], complete: true, earlier: false, standing: null });
          continue;
        }
        const { runs, complete } = await mapThen(disk, history, inode, seen.to);
        if (!runs.some(({ physical }) => physical !== null)) continue;
        if (kept.some((other) => isPartOf(runs, inode.size, other.runs, other.size))) continue;
        formers.push({ seen, from, until, life, runs, complete, earlier: kept.length > 0, standing: stands?.at ?? null });
        kept.push({ runs, size: inode.size });
      }
    }
  }
  return formers.sort((a, b) => b.seen.to - a.seen.to || a.seen.inode.number - b.seen.inode.number);
}

/** Who has which block: a bit each for those in use, and for blocks of erased files the file that was seen last with them. */
class Blocks {
  readonly #used: Uint8Array;
  readonly #claimed = new Map<number, string>();

  constructor(used: Uint8Array) {
    this.#used = used;
  }

  /** Takes a block for a life; false: it is another's now. `shared`: the file that stands has it at the same place. */
  take(block: number, life: string, shared: boolean): boolean {
    if (!shared && (this.#used[block >> 3] & (1 << (block & 7))) !== 0) return false;
    const owner = this.#claimed.get(block);
    if (owner === undefined) this.#claimed.set(block, life);
    return owner === undefined || owner === life;
  }
}

/** Former contents as files of a list: names from folders and their older copies, places cut to what is not another's now. */
export async function listErased(
  disk: Disk,
  history: History,
  names: Names,
  standing: ReadonlyMap<number, StandingFile>,
  used: Uint8Array,
): Promise<ListedFile[]> {
  const blocks = new Blocks(used);
  const files: ListedFile[] = [];
  for (const former of await formerContents(disk, history, standing)) {
    const { seen, runs, life } = former;
    const { inode } = seen;
    const stands = former.standing === null ? null : (standing.get(inode.number) ?? null);
    const named = stands ? null : names.of(inode.number, former.from, former.until, "regular");
    const found = stands ?? named;
    const { extents, lost } = has(inode, "inline_data")
      ? { extents: inlineExtents(inode), lost: 0 }
      : leftOfFormer(former, disk, blocks, standing.get(inode.number));
    const first = runs.find(({ physical }) => physical !== null)?.physical ?? null;
    const sealed = has(inode, "encrypt") ? ENCRYPTED_FILE : undefined;
    files.push({
      at: inode.at,
      erased: true,
      name: found?.name ?? null,
      path: found?.path ?? null,
      size: inode.size,
      modified: inode.modified,
      placements: onMedium(extents).length > 0 ? [{ extents, lost, how: howOf(former, inode) }] : [],
      firstByte: first === null ? null : disk.offsetOf(first),
      traces: tracesOf(former, named),
      key: `${inode.number}:${life}:${seen.from}`,
      ...(former.standing !== null && { earlierOf: former.standing }),
      ...(sealed !== undefined && { sealed }),
    });
  }
  return files;
}

function howOf({ runs, complete }: Former, inode: InodeVersion): string {
  if (has(inode, "inline_data")) return "its content is kept inside that copy of its inode";
  const pieces = runs.filter(({ physical }) => physical !== null).length;
  const tree = has(inode, "extents") ? "the extents" : "the block map";
  return `${tree} of that inode lead to ${pieces} ${pieces === 1 ? "run" : "runs"} of blocks${complete ? "" : "; a part of them is lost"}`;
}

function tracesOf({ seen, earlier }: Former, named: FoundName | null): Trace[] {
  const { inode, to } = seen;
  const where =
    to === NOW ? "in the inode table" : Number.isInteger(to) ? "in the journal" : "on the medium, under what the journal would write";
  const traces = [{ what: `a copy of inode ${inode.number} ${where}${earlier ? ", from before it was written anew" : ""}`, at: inode.at }];
  if (named) traces.push({ what: `an entry of a folder named inode ${inode.number} “${named.name}”`, at: named.record.place });
  return traces;
}

/** The stretches of a former content that nobody else has now. */
function leftOfFormer({ runs, life, complete, seen }: Former, disk: Disk, blocks: Blocks, standing: StandingFile | undefined) {
  // Unlinked while it was open, and not yet cleared away (the orphan list): the blocks that are in use are its own.
  const isOrphan = seen.to === NOW && seen.inode.links === 0;
  const mine = (logical: number, physical: number) =>
    disk.isThere(physical) &&
    blocks.take(physical, life, isOrphan || (standing !== undefined && blockAt(standing.runs, logical) === physical));
  return leftOf(runs, seen.inode.size, { ...disk.space, complete }, mine);
}
