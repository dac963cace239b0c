import type { PatientSource } from "../../bytes/patient-source.ts";
import { folderBlockHolds, inodeHolds, inodeSeed } from "./checks.ts";
import { type FolderBlock, type Name, readFolderBlock } from "./directory.ts";
import type { Disk } from "./disk.ts";
import { type InodeVersion, saysTheSame } from "./inode.ts";
import { type BlockCopy, copyBytes, isLater, type Journal } from "./journal.ts";

/** When something was so: transactions in order, BEFORE one for what lay under it, NOW for what stands. */
const BEFORE = 0.5;
export const NOW = Number.MAX_SAFE_INTEGER;

/** A version of an inode with the span of transactions in which it was seen. */
export interface Seen {
  readonly inode: InodeVersion;
  readonly from: number;
  to: number;
}

/** A name that some version of a folder's block gave to an inode. */
export interface SeenName extends Name {
  /** Block of the volume that the folder's list lay in, to tell whose it was. */
  readonly block: number;
  /** The folder, where the block itself says so. */
  readonly folder: number | null;
  readonly when: number;
  /** Absolute byte of the entry. */
  readonly place: number;
}

/** Versions of one inode that are kept: more are the same file growing. */
const MAX_VERSIONS = 512;
/** Names kept for one inode. */
const MAX_NAMES = 64;

/** What the journal's older copies of tables and folders tell, and what is on the medium under them. */
export class History {
  readonly versions = new Map<number, Seen[]>();
  readonly names = new Map<number, SeenName[]>();
  /** Copies of each block by transaction, oldest first: how a tree block was at some time. */
  readonly #copies = new Map<number, { when: number; copy: BlockCopy }[]>();
  readonly #disk: Disk;
  readonly #source: PatientSource;

  constructor(disk: Disk) {
    this.#disk = disk;
    this.#source = disk.source;
  }

  /** Reads all copies of the journal, oldest first. */
  async read({ copies, replayFrom }: Journal): Promise<void> {
    const base = copies[0]?.sequence ?? 0;
    const { blockBytes } = this.#disk.geometry;
    const whenOf = (sequence: number) => ((sequence - base) >>> 0) + 1;
    const underneath = new Set<number>();
    for (const copy of copies) {
      const when = whenOf(copy.sequence);
      const known = this.#copies.get(copy.block);
      if (known) known.push({ when, copy });
      else this.#copies.set(copy.block, [{ when, copy }]);
      const first = this.#disk.firstInodeIn(copy.block);
      // What lies on the medium under a block that would be replayed is as it was right before the first of these transactions.
      const unwritten = this.#disk.isOverlaid(copy.block) && !isLater(replayFrom, copy.sequence);
      if (unwritten && this.#disk.isThere(copy.block) && !underneath.has(copy.block)) {
        underneath.add(copy.block);
        this.#take(await this.#disk.onMedium(copy.block), copy.block, first, whenOf(replayFrom) - BEFORE, this.#disk.offsetOf(copy.block));
      }
      this.#take(await copyBytes(this.#source, copy, blockBytes), copy.block, first, when, copy.at);
    }
  }

  #take(bytes: Uint8Array, block: number, firstInode: number | null, when: number, at: number): void {
    if (firstInode === null) this.takeFolderBlock(bytes, block, when, at, null);
    else for (const inode of this.#disk.inodesIn(bytes, firstInode, at)) this.#takeInode(inode, when);
  }

  #takeInode(inode: InodeVersion, when: number): void {
    const seen = this.versions.get(inode.number);
    const last = seen?.at(-1);
    if (last && saysTheSame(last.inode, inode)) {
      last.to = when;
      return;
    }
    const { seed } = this.#disk.geometry;
    if (seed !== null && !inodeHolds(seed, inode.number, inode.bytes)) return;
    const own: Seen = { inode: { ...inode, bytes: inode.bytes.slice() }, from: when, to: when };
    if (!seen) this.versions.set(inode.number, [own]);
    else if (seen.length < MAX_VERSIONS) seen.push(own);
  }

  /**
   * Names in a block that may be a folder's. `folder`: whose it is known to be. Blocks that do not read as a folder's from
   * end to end tell nothing. @returns what was read, or null
   */
  takeFolderBlock(
    bytes: Uint8Array,
    block: number,
    when: number,
    at: number,
    folder: { number: number; generation: number } | null,
  ): FolderBlock | null {
    const { seed, inodeCount } = this.#disk.geometry;
    const read = readFolderBlock(bytes, inodeCount);
    // What is a folder's now is read as far as it goes; anything else must be one from end to end.
    if ((!read.sound && (folder === null || when !== NOW)) || (read.names.length === 0 && !read.dots)) return null;
    if (read.sound && folder && seed !== null && !folderBlockHolds(inodeSeed(seed, folder.number, folder.generation), bytes)) return null;
    for (const name of read.names) {
      // What stands is listed as present: only what it was called before is remembered.
      if (name.live && when === NOW) continue;
      const known = this.names.get(name.inode) ?? [];
      if (known.length === 0) this.names.set(name.inode, known);
      const same = known.find((one) => one.name === name.name && one.block === block && one.live === name.live);
      if (same && same.when >= when) continue;
      if (same) known.splice(known.indexOf(same), 1);
      else if (known.length >= MAX_NAMES) continue;
      known.push({ ...name, block, folder: folder?.number ?? read.dots?.self ?? null, when, place: at + name.at });
    }
    return read;
  }

  /** An inode as it stands, where nothing names it: dead, or the last trace of a file. */
  noteStanding(inode: InodeVersion): void {
    const { seed } = this.#disk.geometry;
    if (seed === null || inodeHolds(seed, inode.number, inode.bytes)) this.#takeInode(inode, NOW);
  }

  /** How a block was for something seen up to `until`: the journal's copies not younger, newest first, what stands, then younger ones. */
  async *asItWas(block: number, until: number): AsyncGenerator<Uint8Array> {
    const copies = this.#copies.get(block) ?? [];
    const { blockBytes } = this.#disk.geometry;
    for (const { when, copy } of [...copies].reverse()) if (when <= until) yield copyBytes(this.#source, copy, blockBytes);
    const stands = await this.#disk.treeBlock(block);
    if (stands) yield stands;
    if (this.#disk.isOverlaid(block)) yield this.#disk.onMedium(block);
    for (const { when, copy } of copies) if (when > until) yield copyBytes(this.#source, copy, blockBytes);
  }
}
