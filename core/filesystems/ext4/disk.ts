import type { PatientSource } from "../../bytes/patient-source.ts";
import type { BlockSpace } from "../block-runs.ts";
import { firstBlockOf, type Geometry, type Group, headBlocks } from "./geometry.ts";
import { type InodeVersion, readInode } from "./inode.ts";
import { type BlockCopy, copyBytes } from "./journal.ts";
import { GroupFlag } from "./layout.ts";

/** Bytes read at once for a tree, and how many such stretches are kept: 32 MiB. */
const PIECE = 64 * 1024;
const MOST_PIECES = 512;

/** Blocks and inodes of a volume as they stand, with what its journal would still write laid over them. */
export class Disk {
  readonly source: PatientSource;
  readonly geometry: Geometry;
  groups: readonly Group[] = [];
  #overlay: ReadonlyMap<number, BlockCopy> = new Map();
  #tables: { first: number; group: number }[] = [];
  /** Stretches that trees led to, by their number on the source. */
  readonly #pieces = new Map<number, Uint8Array>();

  constructor(source: PatientSource, geometry: Geometry) {
    this.source = source;
    this.geometry = geometry;
  }

  layOver(replay: ReadonlyMap<number, BlockCopy>): void {
    this.#overlay = replay;
  }

  setGroups(groups: readonly Group[]): void {
    this.groups = groups;
    this.#tables = groups.map(({ inodeTable }, group) => ({ first: inodeTable, group })).sort((a, b) => a.first - b.first);
  }

  offsetOf(block: number): number {
    return this.geometry.start + block * this.geometry.blockBytes;
  }

  get space(): BlockSpace {
    const { start, blockBytes, blockCount } = this.geometry;
    return { start, blockBytes, most: blockCount * blockBytes };
  }

  isThere(block: number): boolean {
    return block >= 0 && block < this.geometry.blockCount && this.offsetOf(block) + this.geometry.blockBytes <= this.source.size;
  }

  /** A block as it is once the journal is replayed. Null: not on the source. */
  async block(block: number): Promise<Uint8Array | null> {
    if (!this.isThere(block)) return null;
    const copy = this.#overlay.get(block);
    return copy ? copyBytes(this.source, copy, this.geometry.blockBytes) : this.onMedium(block);
  }

  /**
   * A block that a tree of places leads to, as it is once the journal is replayed. Absurd trees lead all over the volume, again and
   * again: what was read for them is kept, so that each stretch is asked of the medium once.
   */
  async treeBlock(block: number): Promise<Uint8Array | null> {
    if (!this.isThere(block) || this.#overlay.has(block)) return this.block(block);
    const offset = this.offsetOf(block);
    const piece = Math.floor(offset / PIECE);
    const kept = this.#pieces.get(piece);
    if (kept) return kept.subarray(offset - piece * PIECE, offset - piece * PIECE + this.geometry.blockBytes);
    const from = piece * PIECE;
    const bytes = await this.source.read(from, Math.min(PIECE, this.source.size - from));
    this.#pieces.set(piece, bytes);
    if (this.#pieces.size > MOST_PIECES)
      for (const [oldest] of this.#pieces) {
        this.#pieces.delete(oldest);
        break;
      }
    if (offset + this.geometry.blockBytes > from + bytes.length) return this.onMedium(block);
    return bytes.subarray(offset - from, offset - from + this.geometry.blockBytes);
  }

  /** A block as it lies on the medium, whatever the journal says. */
  onMedium(block: number): Promise<Uint8Array> {
    return this.source.read(this.offsetOf(block), this.geometry.blockBytes);
  }

  isOverlaid(block: number): boolean {
    return this.#overlay.has(block);
  }

  /** Absolute byte where a block's bytes are read. */
  placeOf(block: number): number {
    return this.#overlay.get(block)?.at ?? this.offsetOf(block);
  }

  get tableBlocks(): number {
    return Math.ceil((this.geometry.inodesPerGroup * this.geometry.inodeBytes) / this.geometry.blockBytes);
  }

  /** First inode number of a block of an inode table, or null where this block is none. */
  firstInodeIn(block: number): number | null {
    let low = 0;
    let high = this.#tables.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.#tables[middle].first <= block) low = middle + 1;
      else high = middle;
    }
    const table = this.#tables[low - 1];
    if (!table || table.first === 0 || block >= table.first + this.tableBlocks) return null;
    return (
      table.group * this.geometry.inodesPerGroup +
      Math.floor(((block - table.first) * this.geometry.blockBytes) / this.geometry.inodeBytes) +
      1
    );
  }

  /** Inodes of a block of an inode table; `at`: absolute byte of these bytes. */
  *inodesIn(bytes: Uint8Array, first: number, at: number): Generator<InodeVersion> {
    const { inodeBytes, inodeCount } = this.geometry;
    for (let index = 0; (index + 1) * inodeBytes <= bytes.length && first + index <= inodeCount; index++) {
      const own = bytes.subarray(index * inodeBytes, (index + 1) * inodeBytes);
      const inode = readInode(own, first + index, at + index * inodeBytes);
      if (inode) yield inode;
    }
  }

  /** An inode as it stands. Null: there is none, or it was never used. */
  async inode(number: number): Promise<InodeVersion | null> {
    const { inodesPerGroup, inodeBytes, blockBytes, inodeCount } = this.geometry;
    if (number < 1 || number > inodeCount) return null;
    const group = this.groups[Math.floor((number - 1) / inodesPerGroup)];
    if (!group || group.inodeTable === 0) return null;
    const byte = ((number - 1) % inodesPerGroup) * inodeBytes;
    const block = group.inodeTable + Math.floor(byte / blockBytes);
    const bytes = await this.block(block);
    if (!bytes) return null;
    const within = byte % blockBytes;
    return readInode(bytes.slice(within, within + inodeBytes), number, this.placeOf(block) + within);
  }

  /** Blocks of all inode tables that were ever used, as their groups say. */
  *tables(): Generator<{ block: number; first: number }> {
    const { inodesPerGroup, inodeBytes, blockBytes } = this.geometry;
    for (const [index, group] of this.groups.entries()) {
      if ((group.flags & GroupFlag.inode_uninit) !== 0 || group.inodeTable === 0) continue;
      const used = Math.max(0, inodesPerGroup - group.unusedInodes);
      const blocks = Math.ceil((used * inodeBytes) / blockBytes);
      for (let block = 0; block < blocks; block++)
        yield { block: group.inodeTable + block, first: index * inodesPerGroup + Math.floor((block * blockBytes) / inodeBytes) + 1 };
    }
  }

  /** Which blocks are in use: a bit each, by the bitmaps ("Block and Inode Bitmaps"). */
  async usedBlocks(): Promise<Uint8Array> {
    const { geometry } = this;
    const used = new Uint8Array(Math.ceil(geometry.blockCount / 8));
    const mark = (block: number, count: number) => {
      for (let one = Math.max(0, block); one < Math.min(block + count, geometry.blockCount); one++) used[one >> 3] |= 1 << (one & 7);
    };
    mark(0, geometry.firstDataBlock);
    for (const [index, group] of this.groups.entries()) {
      const first = firstBlockOf(geometry, index);
      const count = Math.min(geometry.blocksPerGroup, geometry.blockCount - first);
      const bitmap = (group.flags & GroupFlag.block_uninit) === 0 && group.blockBitmap > 0 ? await this.block(group.blockBitmap) : null;
      if (bitmap)
        for (let cluster = 0; cluster * geometry.clusterBlocks < count; cluster++) {
          if ((bitmap[cluster >> 3] & (1 << (cluster & 7))) !== 0)
            mark(first + cluster * geometry.clusterBlocks, Math.min(geometry.clusterBlocks, count - cluster * geometry.clusterBlocks));
        }
      else mark(first, headBlocks(geometry, index));
      mark(group.blockBitmap, 1);
      mark(group.inodeBitmap, 1);
      if (group.inodeTable > 0) mark(group.inodeTable, this.tableBlocks);
    }
    return used;
  }
}
