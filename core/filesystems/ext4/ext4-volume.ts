import type { Extent } from "../../bytes/extents.ts";
import type { PatientSource } from "../../bytes/patient-source.ts";
import type { Trouble } from "../../bytes/trouble.ts";
import { freeBlocks } from "../block-runs.ts";
import { ENCRYPTED_FILE, ENCRYPTED_FOLDERS } from "../sealed.ts";
import { cutOff, type FileBatch, inBatches, type ListedFile, type Volume, type VolumeInfo } from "../volume.ts";
import { superBlockHolds } from "./checks.ts";
import { mapContent } from "./content-map.ts";
import { Disk } from "./disk.ts";
import { listErased, type StandingFile } from "./erased.ts";
import { findGeometry, type Geometry, readGeometry, readGroups } from "./geometry.ts";
import { History, NOW } from "./history.ts";
import { has, type InodeVersion, isAlive, readInode } from "./inode.ts";
import { type Journal, readJournal } from "./journal.ts";
import { FileType, Incompat, SuperBlock } from "./layout.ts";
import { Names } from "./names.ts";
import { mapThen, placementNow, ROOT, readFolder, type Standing } from "./tree.ts";

const BATCH = 256;
const MAX_FOLDERS = 1_000_000;
const MAX_PATH = 4096;
/** A journal's blocks before we stop believing: 4 GiB of 4 KiB blocks. */
const MAX_JOURNAL_BLOCKS = 1 << 20;

class Ext4Volume implements Volume {
  readonly info: VolumeInfo;
  readonly troubles: Trouble[];
  readonly #disk: Disk;
  readonly #used: Uint8Array;
  readonly #journal: Journal | null;

  constructor(disk: Disk, used: Uint8Array, journal: Journal | null, index: number, length: number, troubles: Trouble[]) {
    const { geometry } = disk;
    this.#disk = disk;
    this.#used = used;
    this.#journal = journal;
    this.troubles = troubles;
    let free = 0;
    for (const { length: run } of this.freeRuns()) free += run;
    const bytes = geometry.blockCount * geometry.blockBytes;
    const encrypted = (geometry.incompat & Incompat.encrypt) !== 0;
    this.info = {
      index,
      filesystem: (geometry.incompat & Incompat.extents) !== 0 ? "ext4" : journal ? "ext3" : "ext2",
      start: geometry.start,
      length: Math.min(length, bytes),
      label: geometry.label,
      encrypted,
      encryption: encrypted ? ENCRYPTED_FOLDERS : null,
      condition: geometry.cleanly
        ? null
        : `It was not cleanly unmounted: ${journal?.replayed ?? 0} transactions of its journal are read as if they had been written back.`,
      used: bytes - free,
      free,
      clusterBytes: geometry.blockBytes,
    };
  }

  *freeRuns(): Generator<Extent> {
    const { blockCount, blockBytes } = this.#disk.geometry;
    const used = this.#used;
    const isUsed = (block: number) => (used[block >> 3] & (1 << (block & 7))) !== 0;
    for (const { first, count } of freeBlocks(blockCount, isUsed, (byte) => used[byte] === 0xff)) {
      const length = Math.min(count * blockBytes, this.#disk.source.size - this.#disk.offsetOf(first));
      if (length > 0) yield { offset: this.#disk.offsetOf(first), length };
    }
  }

  mayDig(): boolean {
    return false;
  }

  dig(): Promise<FileBatch> {
    return Promise.resolve({ files: [], troubles: [] });
  }

  /** Inodes of files that were listed as present. */
  #reached = new Set<number>();

  async *list(): AsyncGenerator<FileBatch> {
    this.#reached = new Set();
    const history = new History(this.#disk);
    if (this.#journal) await history.read(this.#journal);
    const names = new Names(history);
    const standing = new Map<number, StandingFile>();
    yield* this.#walk([{ number: ROOT, path: "/" }], history, names, standing);
    yield* this.#walk(await this.#lostFolders(history, names), history, names, standing);
    yield* this.#lostPresent(history, names, standing);
    await this.#erasedFolders(history, names);
    const erased = await listErased(this.#disk, history, names, standing, this.#used);
    yield* inBatches(erased, (file) => file);
  }

  /** Everything that these folders lead to. */
  async *#walk(
    pending: { number: number; path: string }[],
    history: History,
    names: Names,
    standing: Map<number, StandingFile>,
  ): AsyncGenerator<FileBatch> {
    const walked = new Set<number>();
    let batch: FileBatch = { files: [], troubles: [] };
    for (let folders = 0; pending.length > 0 && folders < MAX_FOLDERS; folders++) {
      const next = pending.pop();
      if (!next) break;
      if (walked.has(next.number)) {
        batch.troubles.push({ what: `${next.path} leads into itself or into another folder`, at: this.#disk.geometry.start, length: 0 });
        continue;
      }
      walked.add(next.number);
      const folder = await this.#disk.inode(next.number);
      if (folder?.mode !== "folder") {
        batch.troubles.push({ what: `the inode of ${next.path} is no folder`, at: folder?.at ?? this.#disk.geometry.start, length: 0 });
        continue;
      }
      names.paths.set(next.number, next.path);
      const list = await readFolder(this.#disk, history, folder, next.path);
      batch.troubles.push(...list.troubles);
      for (const { physical, count } of list.runs)
        for (let index = 0; physical !== null && index < count; index++) names.own(physical + index, next.number, NOW);
      for (const name of list.names) {
        const path = next.path + name.name;
        if (path.length > MAX_PATH) continue;
        if (name.fileType === FileType.directory) pending.push({ number: name.inode, path: `${path}/` });
        else {
          const inode = await this.#disk.inode(name.inode);
          // Old volumes do not say in the entry what it names.
          if (inode?.mode === "folder") pending.push({ number: name.inode, path: `${path}/` });
          else if (inode?.mode === "regular") batch.files.push(await this.#file(inode, name, path, history, standing, batch.troubles));
          else if (!inode) batch.troubles.push({ what: `${path} names an inode that is not there`, at: name.place, length: 8 });
        }
        if (batch.files.length < BATCH) continue;
        yield batch;
        batch = { files: [], troubles: [] };
      }
    }
    yield batch;
  }

  /**
   * Folders that stand and that none leads to: what led to them is lost, what they list is not. The topmost of them are put where the file system's own
   * repair would put them (e2fsck(8): lost+found, a number sign and the inode).
   */
  async #lostFolders(history: History, names: Names): Promise<{ number: number; path: string }[]> {
    const lost = new Set<number>();
    const within = new Set<number>();
    for (const { block, first } of this.#disk.tables()) {
      const bytes = await this.#disk.block(block);
      for (const inode of bytes ? this.#disk.inodesIn(bytes, first, this.#disk.placeOf(block)) : []) {
        if (inode.mode !== "folder" || !isAlive(inode) || names.paths.has(inode.number) || lost.size >= MAX_FOLDERS) continue;
        lost.add(inode.number);
        const own = { ...inode, bytes: inode.bytes.slice() };
        for (const name of (await readFolder(this.#disk, history, own, "/")).names) if (name.inode !== inode.number) within.add(name.inode);
      }
    }
    return [...lost].filter((number) => !within.has(number)).map((number) => ({ number, path: `/lost+found/#${number}/` }));
  }

  async #file(
    inode: InodeVersion,
    name: Pick<Standing, "name" | "place"> | null,
    path: string | null,
    history: History,
    standing: Map<number, StandingFile>,
    troubles: Trouble[],
  ): Promise<ListedFile> {
    const { extents, runs, how, complete } = await placementNow(this.#disk, inode);
    const at = name?.place ?? inode.at;
    this.#reached.add(inode.number);
    // Only what the journal has older copies of is ever compared with them.
    if (history.versions.has(inode.number) && !standing.has(inode.number))
      standing.set(inode.number, { inode, at, runs, name: name?.name ?? null, path });
    if (!complete)
      troubles.push({
        what: `${path ?? `inode ${inode.number}`}: a part of where its content lies is lost`,
        at: inode.at,
        length: this.#disk.geometry.inodeBytes,
      });
    const unmapped = complete ? 0 : inode.size - runs.reduce((sum, { count }) => sum + count * this.#disk.geometry.blockBytes, 0);
    const firstBlock = runs.find(({ physical }) => physical !== null)?.physical;
    return {
      at,
      erased: false,
      name: name?.name ?? null,
      path,
      size: inode.size,
      modified: inode.modified,
      placements: [{ extents, how, lost: Math.max(0, unmapped) }],
      firstByte: firstBlock == null ? null : this.#disk.offsetOf(firstBlock),
      traces: [
        ...(name
          ? [{ what: "its entry in the folder list", at: name.place }]
          : [{ what: "no folder names it any more, but it was not deleted", at: inode.at }]),
        { what: `inode ${inode.number}`, at: inode.at },
      ],
      key: `${inode.number}:${at}`,
      ...(has(inode, "encrypt") && { sealed: ENCRYPTED_FILE }),
    };
  }

  /** Inodes that are in use although no folder leads to them: a folder on the way is damaged. Dead ones with content tell of erased files. */
  async *#lostPresent(history: History, names: Names, standing: Map<number, StandingFile>): AsyncGenerator<FileBatch> {
    const { geometry } = this.#disk;
    const batch: FileBatch = { files: [], troubles: [] };
    for (const { block, first } of this.#disk.tables()) {
      const bytes = await this.#disk.block(block);
      if (!bytes) continue;
      for (const inode of this.#disk.inodesIn(bytes, first, this.#disk.placeOf(block))) {
        if (inode.number < geometry.firstInode || this.#reached.has(inode.number)) continue;
        if (inode.mode === "folder" && names.paths.has(inode.number)) continue;
        if (isAlive(inode) && inode.mode === "regular" && inode.size > 0) {
          const found = names.of(inode.number, 0, NOW, "regular");
          const own = { ...inode, bytes: inode.bytes.slice() };
          batch.files.push(await this.#file(own, null, found?.path ?? null, history, standing, batch.troubles));
        } else history.noteStanding(inode);
      }
      if (batch.files.length < BATCH) continue;
      yield { files: batch.files.splice(0), troubles: batch.troubles.splice(0) };
    }
    if (batch.files.length > 0)
      batch.troubles.push({ what: "files that no folder names any more are in use", at: geometry.start, length: 0 });
    yield batch;
  }

  /** Lists of folders that are no more: where they lay, by older copies of their inodes. What stands there may still be their list. */
  async #erasedFolders(history: History, names: Names): Promise<void> {
    for (const versions of [...history.versions.values()])
      for (const { inode, to } of versions) {
        if (inode.mode !== "folder" || !isAlive(inode) || inode.size === 0) continue;
        const { runs } = await mapThen(this.#disk, history, inode, to);
        for (const { physical, count } of runs)
          for (let index = 0; physical !== null && index < count; index++) {
            const block = physical + index;
            const known = names.owners.get(block);
            names.own(block, inode.number, to);
            if (known?.some(({ when }) => when === NOW) || !this.#disk.isThere(block)) continue;
            history.takeFolderBlock(await this.#disk.onMedium(block), block, to, this.#disk.offsetOf(block), inode);
          }
      }
  }
}

/** Opens an ext2, ext3 or ext4 volume that begins at `start` of the source. Null: there is none. */
export async function openExt4(source: PatientSource, start: number, length: number, index: number): Promise<Volume | null> {
  const found = await findGeometry(source, start, length);
  if (!found) return null;
  const { geometry } = found;
  const troubles: Trouble[] = [];
  if (found.fromGroup > 0)
    troubles.push({ what: `the superblock is lost; its copy in block group ${found.fromGroup} is used`, at: start + 1024, length: 1024 });
  troubles.push(...cutOff(start + geometry.blockCount * geometry.blockBytes, source.size));
  return opened(source, geometry, length, index, troubles);
}

/** Opens what is left of a volume that begins at `start`, by a copy of its superblock alone: whatever stands at its beginning now. Null: the copy makes no sense. */
export async function openExt4Copy(source: PatientSource, copy: Uint8Array, start: number, length: number): Promise<Volume | null> {
  const geometry = copy.length >= SuperBlock.size ? readGeometry(copy, start) : null;
  return geometry && (geometry.seed === null || superBlockHolds(copy)) ? opened(source, geometry, length, 0, []) : null;
}

async function opened(source: PatientSource, geometry: Geometry, length: number, index: number, troubles: Trouble[]): Promise<Volume> {
  const disk = new Disk(source, geometry);
  const beforeReplay = await readGroups(geometry, (block) => disk.block(block));
  disk.setGroups(beforeReplay.groups);
  const journal = await openJournal(disk, geometry);
  if (journal && journal.replay.size > 0) {
    disk.layOver(journal.replay);
    const after = await readGroups(geometry, (block) => disk.block(block));
    disk.setGroups(after.groups);
    troubles.push(...after.troubles);
  } else troubles.push(...beforeReplay.troubles);
  troubles.push(...(journal?.troubles ?? []));
  return new Ext4Volume(disk, await disk.usedBlocks(), journal, index, length, troubles);
}

/** The journal by its inode, or by the copy of that inode's block map in the superblock. */
async function openJournal(disk: Disk, geometry: Geometry): Promise<Journal | null> {
  if (geometry.journalInode === 0) return null;
  const inode = await disk.inode(geometry.journalInode);
  const kept = journalFromSuper(geometry);
  for (const candidate of [inode, kept]) {
    if (candidate?.mode !== "regular" || candidate.size === 0) continue;
    const { runs } = await mapContent(candidate, {
      ...geometry,
      async *treeBlock(block) {
        const bytes = await disk.block(block);
        if (bytes) yield bytes;
      },
    });
    const places: number[] = [];
    for (const { physical, count } of runs)
      for (let index = 0; physical !== null && index < count && places.length < MAX_JOURNAL_BLOCKS; index++)
        if (disk.isThere(physical + index)) places.push(disk.offsetOf(physical + index));
    const journal = await readJournal(disk.source, places, geometry.blockBytes, !geometry.cleanly);
    if (journal) return journal;
  }
  return null;
}

/** `s_jnl_blocks`: the journal inode's i_block, then the upper and lower half of its size. */
function journalFromSuper({ journalBlocks, journalInode }: Geometry): InodeVersion | null {
  const bytes = new Uint8Array(256);
  bytes.set(journalBlocks.subarray(0, 60), 0x28);
  bytes.set(journalBlocks.subarray(64, 68), 0x4);
  bytes.set([0x00, 0x80], 0);
  bytes[0x1a] = 1;
  // An extent header tells of itself.
  if (journalBlocks[0] === 0x0a && journalBlocks[1] === 0xf3) bytes.set([0, 0, 8, 0], 0x20);
  return readInode(bytes, journalInode, 0);
}
