import type { PatientSource } from "../../bytes/patient-source.ts";
import type { BlockSpace } from "../block-runs.ts";
import type { Geometry } from "./geometry.ts";
import { BLOCK_BYTES } from "./layout.ts";
import { type InodeNode, readFooter, readInode } from "./node.ts";
import type { Tables } from "./tables.ts";

/** Blocks and nodes of a volume as they stand. */
export class Disk {
  readonly source: PatientSource;
  readonly geometry: Geometry;
  readonly tables: Tables;

  constructor(source: PatientSource, geometry: Geometry, tables: Tables) {
    this.source = source;
    this.geometry = geometry;
    this.tables = tables;
  }

  get space(): BlockSpace {
    return { start: this.geometry.start, blockBytes: BLOCK_BYTES, most: this.geometry.blockCount * BLOCK_BYTES };
  }

  offsetOf(address: number): number {
    return this.geometry.start + address * BLOCK_BYTES;
  }

  async block(address: number): Promise<Uint8Array | null> {
    const at = this.offsetOf(address);
    return this.tables.isInMain(address) && at + BLOCK_BYTES <= this.source.size ? this.source.read(at, BLOCK_BYTES) : null;
  }

  /** The block of a node as it stands; its footer must say that it is that node. */
  async node(nid: number, ino: number): Promise<{ block: Uint8Array; address: number } | null> {
    const address = this.tables.addressOf(nid);
    const block = await this.block(address);
    const footer = block && readFooter(block);
    return block && footer?.nid === nid && footer.ino === ino ? { block, address } : null;
  }

  /** An inode as it stands, with its block. */
  async inode(ino: number): Promise<{ inode: InodeNode; block: Uint8Array } | null> {
    const node = await this.node(ino, ino);
    const inode = node && readInode(node.block, node.address, this.geometry.feature, null);
    return inode ? { inode, block: node.block } : null;
  }
}
