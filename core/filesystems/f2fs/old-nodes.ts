import type { PatientSource } from "../../bytes/patient-source.ts";
import type { Geometry } from "./geometry.ts";
import { BLOCK_BYTES } from "./layout.ts";
import { type InodeNode, readFooter, readInode } from "./node.ts";
import type { Tables } from "./tables.ts";

/** A node block that is not an inode, by its footer. */
export interface OtherNode {
  readonly ino: number;
  readonly version: number;
  readonly address: number;
}

/** Copies kept of one node: more are the same file growing. */
const MAX_COPIES = 256;

/**
 * Every node block that the log still holds, in use or given up: F2FS writes a node anew at another place and leaves the old
 * block as it was, footer and all.
 */
export class OldNodes {
  readonly inodes = new Map<number, InodeNode[]>();
  readonly #others = new Map<number, OtherNode[]>();
  readonly #source: PatientSource;
  readonly #geometry: Geometry;
  readonly #newest: number;
  readonly #limit: number;

  constructor(source: PatientSource, geometry: Geometry, tables: Tables, newest: number) {
    this.#source = source;
    this.#geometry = geometry;
    this.#newest = newest;
    this.#limit = tables.nodeLimit;
  }

  offsetOf(address: number): number {
    return this.#geometry.start + address * BLOCK_BYTES;
  }

  async block(address: number): Promise<Uint8Array | null> {
    const at = this.offsetOf(address);
    return address > 0 && at + BLOCK_BYTES <= this.#source.size ? this.#source.read(at, BLOCK_BYTES) : null;
  }

  /** Reads the segments that hold nodes, or held them when their summary was last written. */
  async read(holdsNodes: Uint8Array): Promise<void> {
    const { mainAt, blocksPerSegment } = this.#geometry;
    for (let segment = 0; segment < holdsNodes.length; segment++) {
      if (holdsNodes[segment] === 0) continue;
      const first = mainAt + segment * blocksPerSegment;
      const at = this.offsetOf(first);
      const bytes = await this.#source.read(
        Math.min(at, this.#source.size),
        Math.max(0, Math.min(blocksPerSegment * BLOCK_BYTES, this.#source.size - at)),
      );
      for (let index = 0; (index + 1) * BLOCK_BYTES <= bytes.length; index++)
        this.take(bytes.subarray(index * BLOCK_BYTES, (index + 1) * BLOCK_BYTES), first + index);
    }
    for (const copies of this.inodes.values()) copies.sort(byAge);
  }

  /** Takes a block for a node, where it can be one. @returns the inode that it holds, or null */
  take(block: Uint8Array, address: number): InodeNode | null {
    const footer = readFooter(block);
    if (footer.nid === 0 || footer.nid >= this.#limit || footer.ino === 0 || footer.ino >= this.#limit) return null;
    // Written after the last checkpoint at most: a later number is no node of this volume.
    if (footer.version === 0 || footer.version > this.#newest + 1) return null;
    if (footer.nid !== footer.ino) {
      const copies = this.#others.get(footer.nid) ?? [];
      if (copies.length === 0) this.#others.set(footer.nid, copies);
      if (copies.length < MAX_COPIES) copies.push({ ino: footer.ino, version: footer.version, address });
      return null;
    }
    const inode = readInode(block, address, this.#geometry.feature, this.#geometry.seed);
    if (!inode) return null;
    const copies = this.inodes.get(inode.ino) ?? [];
    if (copies.length === 0) this.inodes.set(inode.ino, copies);
    if (copies.some((copy) => copy.address === address)) return null;
    if (copies.length < MAX_COPIES) copies.push(inode);
    return inode;
  }

  /** A node of an inode as it was for a copy of that inode: the newest not younger than `until`, else the oldest younger one. */
  async nodeAt(nid: number, ino: number, until: number): Promise<Uint8Array | null> {
    const copies = (this.#others.get(nid) ?? [])
      .filter((copy) => copy.ino === ino)
      .sort((a, b) => a.version - b.version || a.address - b.address);
    const chosen = copies.findLast(({ version }) => version <= until) ?? copies[0];
    return chosen ? this.block(chosen.address) : null;
  }
}

/** Oldest first: by checkpoint, within one by the time of the last change, then by place in the log. */
const byAge = (a: InodeNode, b: InodeNode): number => a.version - b.version || a.changed - b.changed || a.address - b.address;
