import type { Extent } from "../../bytes/extents.ts";
import type { Trouble } from "../../bytes/trouble.ts";
import { extentsOf, freeBlocks } from "../block-runs.ts";
import { COMPRESSED_FILE, ENCRYPTED_FILE, ENCRYPTED_FOLDERS } from "../sealed.ts";
import { type FileBatch, inBatches, type ListedFile, type Volume, type VolumeInfo } from "../volume.ts";
import { inlineExtents, mapContent } from "./content-map.ts";
import type { Disk } from "./disk.ts";
import { listErased, type StandingFile } from "./erased.ts";
import { type Name, readFolderBlock, readInlineFolder } from "./folder.ts";
import type { Pack } from "./geometry.ts";
import { BLOCK_BYTES, CheckpointFlag, Feature, FileType } from "./layout.ts";
import { Names } from "./names.ts";
import { type InodeNode, readFooter } from "./node.ts";
import { OldNodes } from "./old-nodes.ts";

const BATCH = 256;
const MAX_FOLDERS = 1_000_000;
const MAX_PATH = 4096;
/** A folder's list before we stop believing, in blocks. */
const MAX_FOLDER_BLOCKS = 1 << 16;

export class F2fsVolume implements Volume {
  readonly info: VolumeInfo;
  readonly troubles: Trouble[];
  readonly #disk: Disk;
  readonly #old: OldNodes;

  constructor(disk: Disk, pack: Pack, index: number, length: number, rolled: number, troubles: Trouble[]) {
    const { geometry } = disk;
    this.#disk = disk;
    this.#old = new OldNodes(disk.source, geometry, disk.tables, pack.low);
    this.troubles = troubles;
    const encrypted = (geometry.feature & Feature.encrypt) !== 0;
    const bytes = geometry.blockCount * BLOCK_BYTES;
    let free = 0;
    for (const run of this.freeRuns()) free += run.length;
    this.info = {
      index,
      filesystem: "F2FS",
      start: geometry.start,
      length: Math.min(length, bytes),
      label: geometry.label,
      encrypted,
      encryption: encrypted ? ENCRYPTED_FOLDERS : null,
      condition:
        (pack.flags & CheckpointFlag.umount) !== 0
          ? null
          : `It was not cleanly unmounted: ${rolled} nodes that were synced after its last checkpoint are read as if it had been mounted since.`,
      used: bytes - free,
      free,
      clusterBytes: BLOCK_BYTES,
    };
  }

  *freeRuns(): Generator<Extent> {
    const { mainAt, mainSegments, blocksPerSegment } = this.#disk.geometry;
    const { tables } = this.#disk;
    const isUsed = (block: number) => tables.isValid(mainAt + block);
    for (const { first, count } of freeBlocks(mainSegments * blocksPerSegment, isUsed, (byte) => tables.valid[byte] === 0xff)) {
      const offset = this.#disk.offsetOf(mainAt + first);
      const length = Math.min(count * BLOCK_BYTES, this.#disk.source.size - offset);
      if (length > 0) yield { offset, length };
    }
  }

  /** A node that no summary led to: its footer says that it is an inode. Nodes begin where blocks do. */
  mayDig(bytes: Uint8Array, at: number, place: number): boolean {
    if ((place - this.#disk.geometry.start) % BLOCK_BYTES !== 0 || at + BLOCK_BYTES > bytes.length) return false;
    const { nid, ino, version } = readFooter(bytes.subarray(at, at + BLOCK_BYTES));
    return nid !== 0 && nid === ino && version !== 0 && nid < this.#disk.tables.nodeLimit;
  }

  async dig(block: Uint8Array, at: number): Promise<FileBatch> {
    const address = (at - this.#disk.geometry.start) / BLOCK_BYTES;
    const inode = this.#old.take(block, address);
    if (inode?.mode !== "regular") return { files: [], troubles: [] };
    // Only this copy is looked at: what the lists told of stands already.
    const one = new OldNodes(this.#disk.source, this.#disk.geometry, this.#disk.tables, inode.version);
    one.take(block, address);
    return { files: await listErased(this.#disk, one, this.#names ?? new Names(one), this.#standing), troubles: [] };
  }

  #names: Names | null = null;
  readonly #standing = new Map<number, StandingFile>();

  async *list(): AsyncGenerator<FileBatch> {
    await this.#old.read(this.#disk.tables.holdsNodes);
    const names = new Names(this.#old);
    this.#names = names;
    this.#standing.clear();
    yield* this.#present(names);
    yield* this.#lostPresent(names);
    await this.#oldFolders(names);
    const erased = await listErased(this.#disk, this.#old, names, this.#standing);
    yield* inBatches(erased, (file) => file);
  }

  /** Everything that the root folder leads to. */
  async *#present(names: Names): AsyncGenerator<FileBatch> {
    const { geometry } = this.#disk;
    const pending: { ino: number; path: string }[] = [{ ino: geometry.rootIno, path: "/" }];
    let batch: FileBatch = { files: [], troubles: [] };
    for (let folders = 0; pending.length > 0 && folders < MAX_FOLDERS; folders++) {
      const next = pending.pop();
      if (!next) break;
      if (names.paths.has(next.ino)) {
        batch.troubles.push({ what: `${next.path} leads into itself or into another folder`, at: geometry.start, length: 0 });
        continue;
      }
      names.paths.set(next.ino, next.path);
      const list = await this.#readFolder(next.ino, names);
      if (!list) {
        batch.troubles.push({ what: `the node of ${next.path} is lost`, at: geometry.start, length: 0 });
        continue;
      }
      if (!list.complete)
        batch.troubles.push({ what: `the list of ${next.path} cannot be followed to its end`, at: list.at, length: BLOCK_BYTES });
      for (const { name, place } of list.names) {
        const path = next.path + name.name;
        if (path.length > MAX_PATH) continue;
        if (name.fileType === FileType.directory) pending.push({ ino: name.ino, path: `${path}/` });
        else if (name.fileType === FileType.regular || name.fileType === FileType.unknown) {
          const node = await this.#disk.inode(name.ino);
          if (node?.inode.mode === "folder") pending.push({ ino: name.ino, path: `${path}/` });
          else if (node?.inode.mode === "regular")
            batch.files.push(await this.#file(node, { name: name.name, place }, path, batch.troubles));
          else if (!node) batch.troubles.push({ what: `the node of ${path} is lost`, at: place, length: 11 });
        }
        if (batch.files.length < BATCH) continue;
        yield batch;
        batch = { files: [], troubles: [] };
      }
    }
    yield batch;
  }

  /** The entries of a folder that stands; those given up are told to the names. */
  async #readFolder(ino: number, names: Names): Promise<{ names: { name: Name; place: number }[]; complete: boolean; at: number } | null> {
    const node = await this.#disk.inode(ino);
    if (node?.inode.mode !== "folder") return null;
    const { inode, block } = node;
    const found: { name: Name; place: number }[] = [];
    const take = (list: Name[], blockAt: number) => {
      for (const name of list)
        if (name.live) found.push({ name, place: blockAt + name.at });
        else names.note(name, ino, blockAt + name.at);
    };
    const at = this.#disk.offsetOf(inode.address);
    const { nodeLimit } = this.#disk.tables;
    if (inode.inlineFolder) {
      take(readInlineFolder(block, inode, nodeLimit), at);
      return { names: found, complete: true, at };
    }
    const { runs, complete } = await this.#mapNow(inode, block);
    let left = MAX_FOLDER_BLOCKS;
    let lost = 0;
    for (const { physical, count } of runs)
      for (let index = 0; physical !== null && index < count && left > 0; index++, left--) {
        const place = this.#disk.offsetOf(physical + index);
        const bytes = await this.#disk.block(physical + index);
        if (bytes) take(readFolderBlock(bytes, nodeLimit), place);
        lost += this.#disk.source.unreadable.overlap(place, BLOCK_BYTES);
      }
    return { names: found, complete: complete && lost === 0, at };
  }

  #mapNow(inode: InodeNode, block: Uint8Array) {
    return mapContent(
      inode,
      block,
      (address) => this.#disk.tables.isInMain(address),
      async (nid) => (await this.#disk.node(nid, inode.ino))?.block ?? null,
    );
  }

  async #file(
    { inode, block }: { inode: InodeNode; block: Uint8Array },
    named: { name: string; place: number } | null,
    path: string | null,
    troubles: Trouble[],
  ): Promise<ListedFile> {
    const at = named?.place ?? this.#disk.offsetOf(inode.address);
    const nodeAt = this.#disk.offsetOf(inode.address);
    const map = inode.inlineData ? null : await this.#mapNow(inode, block);
    const extents = map ? extentsOf(map.runs, inode.size, this.#disk.space) : inlineExtents(inode, nodeAt);
    if (!this.#standing.has(inode.ino)) this.#standing.set(inode.ino, { inode, at, runs: map?.runs ?? [], extents });
    if (map && !map.complete)
      troubles.push({ what: `${path ?? `inode ${inode.ino}`}: a node that it hangs on is lost`, at: nodeAt, length: BLOCK_BYTES });
    const pieces = map?.runs.filter(({ physical }) => physical !== null).length ?? 0;
    const sealed = inode.encrypted ? ENCRYPTED_FILE : map?.compressed ? COMPRESSED_FILE : undefined;
    const mapped = map?.runs.reduce((sum, { count }) => sum + count * BLOCK_BYTES, 0) ?? inode.size;
    return {
      at,
      erased: false,
      name: named?.name ?? inode.name,
      path,
      size: inode.size,
      modified: inode.modified,
      placements: [
        {
          extents,
          how: map
            ? `its addresses lead to ${pieces} ${pieces === 1 ? "run" : "runs"} of blocks`
            : "its content is kept inside its node block",
          lost: map && !map.complete ? Math.max(0, inode.size - mapped) : 0,
        },
      ],
      firstByte: extents[0] && extents[0].offset >= 0 ? extents[0].offset : null,
      traces: [
        named
          ? { what: "its entry in the folder list", at: named.place }
          : { what: "no folder names it any more, but it was not deleted", at: nodeAt },
        { what: `node of inode ${inode.ino}`, at: nodeAt },
      ],
      key: `${inode.ino}:${at}`,
      ...(sealed !== undefined && { sealed }),
    };
  }

  /** Inodes in use that no folder leads to: a list on the way is damaged. Those without names are erased ones, not yet cleared away. */
  async *#lostPresent(names: Names): AsyncGenerator<FileBatch> {
    let batch: FileBatch = { files: [], troubles: [] };
    for (const ino of this.#disk.tables.inodes()) {
      if (this.#standing.has(ino) || names.paths.has(ino)) continue;
      const node = await this.#disk.inode(ino);
      if (node?.inode.mode !== "regular" || node.inode.links === 0 || node.inode.size === 0) continue;
      const { name } = node.inode;
      const above = names.pathOf(node.inode.parent, 0);
      batch.files.push(await this.#file(node, null, name === null || above === null ? null : above + name, batch.troubles));
      if (batch.files.length < BATCH) continue;
      yield batch;
      batch = { files: [], troubles: [] };
    }
    yield batch;
  }

  /** Lists of folders as they were: entries in older copies of inline folders, and in list blocks that older copies lead to. */
  async #oldFolders(names: Names): Promise<void> {
    const { tables } = this.#disk;
    const read = new Set<number>();
    for (const copies of this.#old.inodes.values())
      for (const inode of copies) {
        if (inode.mode !== "folder") continue;
        const block = await this.#old.block(inode.address);
        if (!block) continue;
        if (inode.inlineFolder) {
          for (const name of readInlineFolder(block, inode, tables.nodeLimit))
            names.note(name, inode.ino, this.#disk.offsetOf(inode.address) + name.at);
          continue;
        }
        const { runs } = await mapContent(
          inode,
          block,
          (address) => tables.isInMain(address),
          (nid) => this.#old.nodeAt(nid, inode.ino, inode.version),
        );
        for (const { logical, physical, count, nid, place } of runs)
          for (let index = 0; physical !== null && index < count && logical < MAX_FOLDER_BLOCKS; index++) {
            const address = physical + index;
            if (read.has(address)) continue;
            read.add(address);
            const writer = await tables.writerOf(address);
            if (writer && (writer.nid !== nid || writer.place !== place + index)) continue;
            const bytes = await this.#disk.block(address);
            if (bytes)
              for (const name of readFolderBlock(bytes, tables.nodeLimit))
                names.note(name, inode.ino, this.#disk.offsetOf(address) + name.at);
          }
      }
  }
}
