import { type Extent, firstBytes, placeOf } from "../../bytes/extents.ts";
import type { PatientSource } from "../../bytes/patient-source.ts";
import type { Trouble } from "../../bytes/trouble.ts";
import { type FileBatch, inBatches, type ListedFile, type Trace, type Volume, type VolumeInfo } from "../volume.ts";
import { type ClusterMap, type ClusterSpace, FIRST_CLUSTER } from "./cluster-map.ts";
import type { FolderEntry, FolderFormat } from "./folder-format.ts";
import { type Folder, FolderReader } from "./folder-reader.ts";
import { Owners } from "./owners.ts";
import { erasedPlacements } from "./placement.ts";

/** Folders walked before we stop believing. */
const MAX_FOLDERS = 500_000;
const PIECE_OF_FOLDER = "the list of that folder lies in pieces; by its look, this piece belongs to it";
/** Crossed chains whose other file is named. */
const MAX_NAMED_CROSSINGS = 1000;
/** Longest path handed on, in characters: deeper nesting is a loop in disguise. */
const MAX_PATH = 4096;

/** An erased file before it is known what present files have. */
interface Pending {
  readonly entry: FolderEntry;
  readonly path: string | null;
  readonly at: number;
  readonly folder: Folder;
  readonly more: readonly string[];
}

/** A folder of a volume that was formatted over: its first cluster in that volume's numbers, and its parent's where it says so (0: the root). */
export interface LostFolder {
  readonly cluster: number;
  readonly parent: number | null;
}

interface WalkBatch extends FileBatch {
  readonly spoiled: { readonly at: number; readonly because: string }[];
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
  /** Path of each folder by its first cluster: what `..` of a found folder refers to. */
  readonly #paths = new Map<number, string>();
  #owners = new Owners();
  #reader: FolderReader;
  #crossings = 0;

  constructor(parts: ClusterVolumeParts) {
    this.#parts = parts;
    this.#map = parts.map;
    this.#format = parts.format;
    this.info = parts.info;
    this.troubles = parts.troubles;
    this.#reader = new FolderReader(parts, this.#owners);
  }

  /** A walk begins: nothing was read, nobody has anything. */
  #begin(): void {
    this.#owners = new Owners();
    this.#reader = new FolderReader(this.#parts, this.#owners);
    this.#crossings = 0;
    this.#map.disown();
  }

  get space(): ClusterSpace {
    return this.#map.space;
  }

  freeRuns(): Iterable<Extent> {
    return this.#map.freeRuns();
  }

  async *list(): AsyncGenerator<FileBatch> {
    const { root, own } = this.#parts;
    this.#begin();
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
    yield* inBatches(pending, (one) => this.#erasedFile(one));
  }

  mayDig(bytes: Uint8Array, at: number): boolean {
    return this.#format.mayBeFolderBlock(bytes, at);
  }

  async dig(block: Uint8Array, at: number): Promise<FileBatch> {
    const cluster = this.#map.clusterAt(at);
    const aligned = this.#map.offsetOf(cluster) === at;
    const found: FileBatch = { files: [], troubles: [] };
    const dots = this.#format.readDots(block);
    // The folder of a volume that was formatted over says another number.
    if (dots && dots.self !== cluster) return found;
    if (!aligned || this.#reader.wasRead(cluster) || !this.#map.isFree(cluster)) return found;
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
      this.#reader.noteRead(cluster);
      const folder = { firstCluster: cluster, path: null, erased: true };
      this.#open(block, this.#map.extentsOf([cluster]), folder, { files: [], troubles: found.troubles, spoiled: [] }, pending, []);
    }
    found.files.push(...pending.map((one) => this.#erasedFile(one)));
    return found;
  }

  /**
   * Files of a volume that was formatted over, by the folders that are left of it: those whose parents are known first, so that their paths are
   * too. All of them are erased.
   */
  async *exhume(folders: readonly LostFolder[]): AsyncGenerator<FileBatch> {
    const pending: Pending[] = [];
    const parents = new Map(folders.flatMap(({ cluster, parent }) => (parent === null ? [] : [[cluster, parent] as const])));
    this.#paths.set(0, "/");
    /** How many folders lie between it and the root, or it and the last one that is left. */
    const depth = (cluster: number): number => {
      let count = 0;
      for (let at = parents.get(cluster); at !== undefined && count < 64; at = parents.get(at)) count++;
      return count;
    };
    const order = folders
      .map((folder) => ({ ...folder, depth: depth(folder.cluster) }))
      .sort((a, b) => a.depth - b.depth || a.cluster - b.cluster);
    const walk = async function* (this: ClusterVolume, folder: Folder): AsyncGenerator<FileBatch> {
      const inner = [folder];
      for (let walked = 0; inner.length > 0 && walked < MAX_FOLDERS; walked++) {
        const next = inner.pop();
        if (next) for await (const batch of this.#walk([next], pending, inner)) if (batch.troubles.length > 0) yield batch;
      }
    }.bind(this);
    // The root of FAT32 and exFAT is a folder that nothing names; it does not say of itself where it lies. In exFAT only a folder's entry leads to
    // it: those that another one of them names come with that one.
    const named = new Set<number>();
    const roots: number[] = [];
    for (const cluster of this.#format.hasDots ? [FIRST_CLUSTER] : order.map((one) => one.cluster)) {
      if (!this.#map.isFree(cluster)) continue;
      const block = await this.#parts.source.read(this.#map.offsetOf(cluster), this.#map.space.clusterBytes);
      if (this.#format.looksLikeRoot(block)) roots.push(cluster);
      if (!this.#format.hasDots) for (const entry of this.#format.readEntries(block)) if (entry.folder) named.add(entry.firstCluster);
    }
    for (const cluster of roots) yield* walk({ firstCluster: cluster, path: "/", erased: true, isRoot: true });
    for (const { cluster, parent } of [
      ...order.filter((one) => !named.has(one.cluster)),
      ...order.filter((one) => named.has(one.cluster)),
    ]) {
      if (this.#reader.wasRead(cluster)) continue;
      const above = parent === null ? undefined : this.#paths.get(parent);
      const path = this.#paths.get(cluster) ?? (above === undefined ? null : `${above}?/`);
      yield* walk({ firstCluster: cluster, path, erased: true });
    }
    yield* inBatches(pending, (one) => this.#erasedFile(one));
  }

  get #rootCluster(): number {
    return "cluster" in this.#parts.root ? this.#parts.root.cluster : 0;
  }

  /** Walks folders of one state; present folders in them are walked too, erased ones go to `erasedFolders`. */
  async *#walk(folders: Folder[], pending: Pending[], erasedFolders: Folder[]): AsyncGenerator<FileBatch> {
    for (let walked = 0; walked < MAX_FOLDERS; walked++) {
      const folder = folders.pop();
      if (!folder) return;
      const { bytes, extents, troubles } = await this.#reader.read(folder);
      const batch: WalkBatch = { files: [], troubles, spoiled: [] };
      if (bytes.length > 0)
        for (const inner of this.#open(bytes, extents, folder, batch, pending, [])) {
          if (inner.erased) erasedFolders.push(inner);
          else folders.push(inner);
        }
      if (batch.files.length + batch.troubles.length + batch.spoiled.length > 0) yield batch;
    }
    yield { files: [], troubles: [{ what: "more folders than a card can hold: the rest is not walked", at: this.info.start, length: 0 }] };
  }

  /** Takes a folder's list apart. @returns the folders in it */
  #open(bytes: Uint8Array, extents: readonly Extent[], folder: Folder, batch: WalkBatch, pending: Pending[], folders: Folder[]): Folder[] {
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
      } else batch.files.push(this.#presentFile(entry, path, at, batch));
    }
    return folders;
  }

  /**
   * Clusters of a present file that another one has too: a checker calls them cross-linked. Both are named, and neither is whole.
   * @returns why this file is not, or null
   */
  #crossing(clusters: readonly number[], at: number, name: string, batch: WalkBatch): string | null {
    const shared = clusters.filter((cluster) => this.#map.isOwned(cluster));
    if (shared.length === 0) return null;
    const bytes = shared.length * this.#map.space.clusterBytes;
    // Looking up whose they are sorts all owners anew: on a card of nothing but crossings it is done a bounded number of times.
    const other = this.#crossings++ < MAX_NAMED_CROSSINGS ? (this.#owners.of(shared[0])?.file ?? null) : null;
    const because = `its chain runs into that of ${other?.name ?? "another file or folder"}: ${bytes} bytes are in both, and whose they are cannot be told`;
    batch.troubles.push({
      what: `${name} and ${other?.name ?? "another file or folder"} are cross-linked: ${bytes} bytes are in both`,
      at,
      length: 0,
    });
    if (other)
      batch.spoiled.push({
        at: other.at,
        because: `the chain of ${name} runs into its own: ${bytes} bytes are in both, and whose they are cannot be told`,
      });
    return because;
  }

  #presentFile(entry: FolderEntry, path: string | null, at: number, batch: WalkBatch): ListedFile {
    const { troubles } = batch;
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
    const crossed = this.#crossing(clusters, at, path ?? entry.name, batch);
    for (const cluster of clusters) this.#map.own(cluster);
    const usedInLast = entry.size - (needed - 1) * this.#map.space.clusterBytes;
    this.#owners.note(clusters, entry.created ?? entry.modified, clusters.length === needed ? usedInLast : undefined, {
      at,
      name: path ?? entry.name,
    });
    return {
      at,
      erased: false,
      name: entry.name,
      path,
      size: entry.size,
      modified: entry.modified,
      ...(crossed !== null && { crossed }),
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
      traces: [{ what: "its entry in the folder list", at }],
    };
  }

  #erasedFile({ entry, path, at, folder, more }: Pending): ListedFile {
    const where = folder.path === null ? "a folder that is lost itself" : folder.path;
    const what = entry.erased ? `its entry in ${where} is marked deleted` : `its entry stands in the erased folder ${where}`;
    const traces: Trace[] = [what, ...entry.lost, ...more].map((words) => ({ what: words, at }));
    return {
      at,
      erased: true,
      name: entry.name,
      path,
      size: entry.size,
      modified: entry.modified,
      placements: erasedPlacements(this.#map, this.#owners, entry),
      firstByte: this.#map.offsetOf(entry.firstCluster),
      traces,
    };
  }
}
