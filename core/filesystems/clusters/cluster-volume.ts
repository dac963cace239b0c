import { type Extent, extentsSource, firstBytes, placeOf } from "../../bytes/extents.ts";
import type { PatientSource } from "../../bytes/patient-source.ts";
import type { Trouble } from "../../bytes/trouble.ts";
import { isAllZero } from "../../bytes/zeros.ts";
import type { ListedFile, Record, Volume, VolumeInfo } from "../../medium/volume.ts";
import { type ClusterMap, ClusterMap as Clusters } from "./cluster-map.ts";
import type { FolderEntry, FolderFormat } from "./folder-format.ts";
import { oldLayout, type StrangeFolder } from "./old-layout.ts";
import { Owners } from "./owners.ts";
import { erasedPlacements } from "./placement.ts";

/** The documents' limit of a folder: 65,536 entries of 32 bytes in FAT, 256 MiB in exFAT; more than this is damage. */
const MAX_FOLDER_BYTES = 8 * 1024 * 1024;
/** Bytes after an erased folder's beginning in which its later parts are looked for: far enough for a card filled in turns. */
const MAX_FOLDER_SPREAD = 64 * 1024 * 1024;
/** Bytes looked through for later parts of erased folders in all: a listing stays quick. */
const MAX_SEARCHED = 512 * 1024 * 1024;
/** Folders walked before we stop believing. */
const MAX_FOLDERS = 500_000;
/** Folders of an older volume that are remembered. */
const MAX_STRANGE = 10_000;
const BATCH = 256;
const SECTOR = 512;
const PIECE_OF_FOLDER = "the list of that folder lies in pieces; by its look, this piece belongs to it";
/** Longest path handed on, in characters: deeper nesting is a loop in disguise. */
const MAX_PATH = 4096;

type Batch = { files: ListedFile[]; troubles: Trouble[] };

interface Folder {
  readonly firstCluster: number;
  /** With a slash at its end. Null: not known. */
  readonly path: string | null;
  readonly erased: boolean;
  /** Where its list lies, for the root of FAT12 and FAT16, which is no cluster. */
  readonly fixed?: Extent;
  /** What its entry says, where one leads to it. */
  readonly entry?: FolderEntry;
}

/** An erased file before it is known what present files have. */
interface Pending {
  readonly entry: FolderEntry;
  readonly path: string | null;
  readonly at: number;
  readonly folder: Folder;
  readonly more: readonly string[];
}

/** A volume of clusters and folder lists, as FAT and exFAT are. */
export interface ClusterVolumeParts {
  readonly source: PatientSource;
  readonly info: VolumeInfo;
  readonly map: ClusterMap;
  readonly format: FolderFormat;
  readonly root: { readonly cluster: number } | { readonly extent: Extent };
  /** Clusters that the file system itself uses: bitmaps, tables. */
  readonly own: readonly number[];
  readonly troubles: Trouble[];
}

export class ClusterVolume implements Volume {
  readonly info: VolumeInfo;
  readonly troubles: Trouble[];
  readonly #parts: ClusterVolumeParts;
  readonly #map: ClusterMap;
  readonly #format: FolderFormat;
  /** Clusters of folders that were read, so that none is read twice and loops end. */
  #read = new Set<number>();
  /** Path of each folder by its first cluster: what `..` of a found folder refers to. */
  readonly #paths = new Map<number, string>();
  #owners = new Owners();
  readonly #strange: StrangeFolder[] = [];
  #searched = 0;

  constructor(parts: ClusterVolumeParts) {
    this.#parts = parts;
    this.#map = parts.map;
    this.#format = parts.format;
    this.info = parts.info;
    this.troubles = parts.troubles;
  }

  freeRuns(): Iterable<Extent> {
    return this.#map.freeRuns();
  }

  async *list(): AsyncGenerator<Batch> {
    const { root, own } = this.#parts;
    this.#read = new Set();
    this.#owners = new Owners();
    for (const cluster of own) this.#map.own(cluster);
    const start: Folder =
      "cluster" in root
        ? { firstCluster: root.cluster, path: "/", erased: false }
        : { firstCluster: 0, path: "/", erased: false, fixed: root.extent };
    this.#paths.set(start.firstCluster, "/");
    const pending: Pending[] = [];
    const erasedFolders: Folder[] = [];
    yield* this.#walk([start], pending, erasedFolders);
    const lost = this.#map.releaseLost();
    if (lost.clusters > 0)
      yield {
        files: [],
        troubles: [
          {
            what: `${lost.clusters} clusters are marked as in use, but nothing leads to them: they are searched like free ones`,
            at: this.info.start,
            length: 0,
          },
        ],
      };
    yield* this.#walk(erasedFolders, pending, erasedFolders);
    for (let at = 0; at < pending.length; at += BATCH)
      yield { files: pending.slice(at, at + BATCH).map((one) => this.#erasedFile(one)), troubles: [] };
  }

  mayDig(bytes: Uint8Array, at: number): boolean {
    return this.#format.mayBeFolderBlock(bytes, at);
  }

  async dig(block: Uint8Array, at: number): Promise<Batch> {
    const cluster = this.#map.clusterAt(at);
    const aligned = this.#map.offsetOf(cluster) === at;
    const found: Batch = { files: [], troubles: [] };
    const dots = this.#format.readDots(block);
    if (dots && (!aligned || dots.self !== cluster)) {
      // The old clusters may be as small as a sector: no more than that is known to be one folder's.
      const entries = block.subarray(2 * this.#format.entryBytes, SECTOR);
      const reads = this.#format.looksLikeFolderBlock(entries) || isAllZero(entries);
      if (this.#strange.length < MAX_STRANGE && reads) this.#strange.push({ at, ...dots });
      return found;
    }
    if (!aligned || this.#read.has(cluster) || !this.#map.isFree(cluster)) return found;
    const pending: Pending[] = [];
    if (dots) {
      const parent = this.#paths.get(dots.parent || this.#rootCluster);
      // The folder's own name stood in its parent, and is gone.
      const path = parent === undefined ? null : `${parent}?/`;
      const erased: Folder[] = [];
      for await (const batch of this.#walk([{ firstCluster: cluster, path, erased: true }], pending, erased))
        found.troubles.push(...batch.troubles);
      for await (const batch of this.#walk(erased, pending, erased)) found.troubles.push(...batch.troubles);
    } else if (this.#format.looksLikeFolderBlock(block)) {
      this.#read.add(cluster);
      const folder = { firstCluster: cluster, path: null, erased: true };
      this.#open(block, this.#map.extentsOf([cluster]), folder, { files: [], troubles: found.troubles }, pending, []);
    }
    found.files.push(...pending.map((one) => this.#erasedFile(one)));
    return found;
  }

  /** Folders of a volume that was formatted over, once the sweep has met them: their tree and files in the old layout. */
  async *rest(): AsyncGenerator<Batch> {
    const end = this.info.start + this.info.length;
    const space = oldLayout(this.#strange, end);
    if (!space || space.clusterCount < 1 || space.clusterCount > 2 ** 28) return;
    const used = new Uint8Array(Math.ceil((space.clusterCount + 2) / 8));
    const old = new Clusters(space, new Uint32Array(0), end, used);
    // What is in use now is in use in the old numbers too.
    const inUse = this.#usedIn(old);
    for (const cluster of inUse) used[cluster >> 3] |= 1 << (cluster & 7);
    const volume = new ClusterVolume({ ...this.#parts, map: old, troubles: [], own: [], root: { cluster: 0 } });
    const what = `an older volume lay here, with clusters of ${space.clusterBytes} bytes: ${this.#strange.length} of its folders are left`;
    yield { files: [], troubles: [{ what, at: space.dataOffset, length: 0 }] };
    yield* volume.#exhume(this.#strange);
  }

  /** Clusters of another numbering that overlap space in use in this one. */
  #usedIn(old: ClusterMap): number[] {
    const clusters: number[] = [];
    let from = Math.min(old.space.dataOffset, this.#map.space.dataOffset);
    const mark = (to: number) => {
      for (let cluster = Math.max(2, old.clusterAt(from)); cluster <= old.lastCluster && old.offsetOf(cluster) < to; cluster++)
        if (old.offsetOf(cluster) + old.space.clusterBytes > from) clusters.push(cluster);
    };
    for (const { offset, length } of this.#map.freeRuns()) {
      mark(offset);
      from = offset + length;
    }
    mark(this.info.start + this.info.length);
    return clusters;
  }

  /** Reads the folders that were found, those whose parents are known first, so that their paths are too. */
  async *#exhume(folders: readonly StrangeFolder[]): AsyncGenerator<Batch> {
    const pending: Pending[] = [];
    const bySelf = new Map(folders.map((folder) => [folder.self, folder]));
    this.#paths.set(0, "/");
    const named = (cluster: number): string | null => this.#paths.get(cluster) ?? null;
    // Parents before children: a folder's name stands in its parent's list.
    const done = new Set<number>();
    const order: StrangeFolder[] = [];
    const visit = (folder: StrangeFolder, depth: number) => {
      if (done.has(folder.self) || depth > 64) return;
      done.add(folder.self);
      const parent = bySelf.get(folder.parent);
      if (parent) visit(parent, depth + 1);
      order.push(folder);
    };
    for (const folder of folders) visit(folder, 0);
    for (const { self, parent } of order) {
      const above = named(parent);
      const path = named(self) ?? (above === null ? null : `${above}?/`);
      const inner: Folder[] = [];
      for await (const batch of this.#walk([{ firstCluster: self, path, erased: true }], pending, inner))
        if (batch.troubles.length > 0) yield batch;
    }
    for (let at = 0; at < pending.length; at += BATCH)
      yield { files: pending.slice(at, at + BATCH).map((one) => this.#erasedFile(one)), troubles: [] };
  }

  get #rootCluster(): number {
    return "cluster" in this.#parts.root ? this.#parts.root.cluster : 0;
  }

  /** Walks folders of one state; present folders in them are walked too, erased ones go to `erasedFolders`. */
  async *#walk(folders: Folder[], pending: Pending[], erasedFolders: Folder[]): AsyncGenerator<Batch> {
    for (let walked = 0; walked < MAX_FOLDERS; walked++) {
      const folder = folders.pop();
      if (!folder) return;
      const { bytes, extents, troubles } = await this.#readFolder(folder);
      const batch: Batch = { files: [], troubles };
      if (bytes.length > 0)
        for (const inner of this.#open(bytes, extents, folder, batch, pending, [])) {
          if (inner.erased) erasedFolders.push(inner);
          else folders.push(inner);
        }
      if (batch.files.length > 0 || batch.troubles.length > 0) yield batch;
    }
    yield { files: [], troubles: [{ what: "more folders than a card can hold: the rest is not walked", at: this.info.start, length: 0 }] };
  }

  async #readFolder(folder: Folder): Promise<{ bytes: Uint8Array; extents: Extent[]; troubles: Trouble[] }> {
    const nothing = { bytes: new Uint8Array(0), extents: [], troubles: [] as Trouble[] };
    if (folder.fixed) {
      const content = extentsSource(this.#parts.source, [folder.fixed]);
      return { bytes: await content.read(0, content.size), extents: [folder.fixed], troubles: [] };
    }
    const { clusterBytes } = this.#map.space;
    const most = Math.max(1, Math.ceil(MAX_FOLDER_BYTES / clusterBytes));
    if (folder.erased) return this.#readErasedFolder(folder, most);
    const inOneRun = folder.entry?.inOneRun === true ? folder.entry : null;
    const { clusters, complete } = inOneRun
      ? { clusters: this.#map.run(folder.firstCluster, Math.min(most, Math.ceil(inOneRun.size / clusterBytes))), complete: true }
      : this.#map.chain(folder.firstCluster, most);
    const fresh = clusters.filter((cluster) => !this.#read.has(cluster));
    const place = this.#map.isOnVolume(folder.firstCluster) ? this.#map.offsetOf(folder.firstCluster) : this.info.start;
    const named = folder.path ?? "a folder";
    if (fresh.length < clusters.length)
      return { ...nothing, troubles: [{ what: `${named} leads into itself or into another folder`, at: place, length: 0 }] };
    const troubles = complete ? [] : [{ what: `the chain of ${named} breaks off`, at: place, length: 0 }];
    for (const cluster of clusters) {
      this.#read.add(cluster);
      this.#map.own(cluster);
    }
    this.#owners.note(clusters, folder.entry ? (folder.entry.created ?? folder.entry.modified) : null);
    const extents = this.#map.extentsOf(clusters);
    const content = extentsSource(this.#parts.source, extents);
    return { bytes: await content.read(0, content.size), extents, troubles };
  }

  /**
   * An erased folder's clusters: its run or chain where that still stands. Else the first must say that it is a folder, and
   * while its list has not come to an end, the next free block that looks like a later part is taken for its continuation.
   */
  async #readErasedFolder(folder: Folder, most: number): Promise<{ bytes: Uint8Array; extents: Extent[]; troubles: Trouble[] }> {
    const { clusterBytes } = this.#map.space;
    const stands = this.#standingClusters(folder, most);
    const clusters: number[] = [];
    const pieces: Uint8Array[] = [];
    const furthest = folder.firstCluster + Math.ceil(MAX_FOLDER_SPREAD / clusterBytes);
    const candidates = stands ?? this.#map.run(folder.firstCluster, furthest - folder.firstCluster + 1);
    for (const cluster of candidates) {
      if (clusters.length >= most) break;
      const first = cluster === folder.firstCluster;
      if (!first && this.#searched > MAX_SEARCHED) break;
      this.#searched += clusterBytes;
      const isOurs = this.#map.isFree(cluster) && !this.#read.has(cluster);
      const block = isOurs ? await this.#parts.source.read(this.#map.offsetOf(cluster), clusterBytes) : null;
      if (!block || !this.#goesOn(block, cluster, first)) {
        if (first) break;
        continue;
      }
      this.#read.add(cluster);
      clusters.push(cluster);
      pieces.push(block);
      if (!stands && !this.#format.isFullBlock(block)) break;
    }
    const bytes = new Uint8Array(clusters.length * clusterBytes);
    pieces.forEach((piece, index) => {
      bytes.set(piece, index * clusterBytes);
    });
    return { bytes, extents: this.#map.extentsOf(clusters), troubles: [] };
  }

  /** The clusters that an erased folder's entry, and what is left of its chain, lead to. Null: nothing does. */
  #standingClusters({ entry, firstCluster }: Folder, most: number): number[] | null {
    if (!entry || entry.inOneRun === null) return null;
    const count = Math.min(most, Math.max(1, Math.ceil(entry.size / this.#map.space.clusterBytes)));
    if (entry.inOneRun) return this.#map.run(firstCluster, count);
    const { clusters } = this.#map.chain(firstCluster, count);
    return clusters.length === count ? clusters : null;
  }

  #goesOn(block: Uint8Array, cluster: number, first: boolean): boolean {
    const dots = this.#format.readDots(block);
    if (first) return dots ? dots.self === cluster : this.#format.readDots === noDots && this.#format.looksLikeFolderBlock(block);
    return dots === null && this.#format.looksLikeFolderBlock(block);
  }

  /** Takes a folder's list apart. @returns the folders in it */
  #open(bytes: Uint8Array, extents: readonly Extent[], folder: Folder, batch: Batch, pending: Pending[], folders: Folder[]): Folder[] {
    for (const entry of this.#format.readEntries(bytes)) {
      const erased = entry.erased || folder.erased;
      const path = folder.path === null || folder.path.length + entry.name.length > MAX_PATH ? null : folder.path + entry.name;
      const at = placeOf(extents, entry.at);
      if (entry.folder) {
        if (!this.#map.isOnVolume(entry.firstCluster)) continue;
        if (path !== null && !this.#paths.has(entry.firstCluster)) this.#paths.set(entry.firstCluster, `${path}/`);
        folders.push({ firstCluster: entry.firstCluster, path: path === null ? null : `${path}/`, erased, entry });
      } else if (erased) {
        if (entry.size > 0 && this.#map.isOnVolume(entry.firstCluster))
          pending.push({
            entry,
            path,
            at,
            folder,
            more: folder.erased && entry.inOneRun === null && extents.length > 0 && entry.at >= extents[0].length ? [PIECE_OF_FOLDER] : [],
          });
      } else batch.files.push(this.#presentFile(entry, path, at, batch.troubles));
    }
    return folders;
  }

  #presentFile(entry: FolderEntry, path: string | null, at: number, troubles: Trouble[]): ListedFile {
    const needed = Math.ceil(entry.size / this.#map.space.clusterBytes);
    const clusters =
      entry.size === 0
        ? []
        : entry.inOneRun === true
          ? this.#map.run(entry.firstCluster, needed)
          : this.#map.chain(entry.firstCluster, needed).clusters;
    if (clusters.length < needed)
      troubles.push({
        what: `the chain of ${path ?? entry.name} breaks off after ${clusters.length} of ${needed} clusters`,
        at,
        length: this.#format.entryBytes,
      });
    for (const cluster of clusters) this.#map.own(cluster);
    const usedInLast = entry.size - (needed - 1) * this.#map.space.clusterBytes;
    this.#owners.note(clusters, entry.created ?? entry.modified, clusters.length === needed ? usedInLast : undefined);
    return {
      at,
      erased: false,
      name: entry.name,
      path,
      size: entry.size,
      modified: entry.modified,
      placements: [
        {
          extents: firstBytes(this.#map.extentsOf(clusters), entry.size),
          how:
            entry.inOneRun === true
              ? `its entry says that it lies in one run of ${clusters.length} clusters`
              : `its chain leads through ${clusters.length} clusters`,
        },
      ],
      firstByte: clusters.length > 0 ? this.#map.offsetOf(clusters[0]) : null,
      records: [{ what: "its entry in the folder list", at }],
    };
  }

  #erasedFile({ entry, path, at, folder, more }: Pending): ListedFile {
    const where = folder.path === null ? "a folder that is lost itself" : folder.path;
    const what = entry.erased ? `its entry in ${where} is marked deleted` : `its entry stands in the erased folder ${where}`;
    const records: Record[] = [what, ...entry.lost, ...more].map((words) => ({ what: words, at }));
    return {
      at,
      erased: true,
      name: entry.name,
      path,
      size: entry.size,
      modified: entry.modified,
      placements: erasedPlacements(this.#map, this.#owners, entry),
      firstByte: this.#map.offsetOf(entry.firstCluster),
      records,
    };
  }
}

/** For formats whose folders do not say where they lie themselves. */
export const noDots = (): null => null;
