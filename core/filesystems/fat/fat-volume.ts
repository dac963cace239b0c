import { type Extent, firstBytes, placeOf, totalLength } from "../../bytes/extents.ts";
import type { PatientSource } from "../../bytes/patient-source.ts";
import type { Trouble } from "../../bytes/trouble.ts";
import type { ListedFile, Record, Volume, VolumeInfo } from "../../medium/volume.ts";
import { type Entry, isFullBlock, looksLikeFolderBlock, mayBeFolderBlock, readDots, readEntries } from "./directory.ts";
import { findGeometry, type Geometry } from "./geometry.ts";
import { erasedPlacements } from "./placement.ts";
import { AllocationTable } from "./table.ts";

/** The document's limit of a folder: 65,536 entries of 32 bytes. */
const MAX_FOLDER_BYTES = 65_536 * 32;
/** Bytes after an erased folder's beginning in which its later parts are looked for: far enough for a card filled in turns. */
const MAX_FOLDER_SPREAD = 64 * 1024 * 1024;
/** Bytes looked through for later parts of erased folders in all: a listing stays quick. */
const MAX_SEARCHED = 512 * 1024 * 1024;
/** Folders walked before we stop believing. */
const MAX_FOLDERS = 500_000;
const PIECE_OF_FOLDER = "the list of that folder lies in pieces; by its look, this piece belongs to it";
/** Longest path handed on, in characters: deeper nesting is a loop in disguise. */
const MAX_PATH = 4096;

interface Folder {
  readonly firstCluster: number;
  /** With a slash at its end. Null: not known. */
  readonly path: string | null;
  readonly erased: boolean;
}

/** What one folder's clusters tell, and the folders in it. */
interface Opened {
  readonly files: ListedFile[];
  readonly troubles: Trouble[];
  readonly folders: Folder[];
}

class FatVolume implements Volume {
  readonly info: VolumeInfo;
  readonly troubles: Trouble[];
  readonly #source: PatientSource;
  readonly #table: AllocationTable;
  readonly #geometry: Geometry;
  /** Clusters of folders that were read, so that none is read twice and loops end. */
  readonly #read = new Set<number>();
  /** Path of each folder by its first cluster: what `..` of a found folder refers to. */
  readonly #paths = new Map<number, string>();

  #searched = 0;

  constructor(source: PatientSource, table: AllocationTable, index: number, troubles: Trouble[]) {
    const { geometry } = table;
    this.#source = source;
    this.#table = table;
    this.#geometry = geometry;
    this.troubles = troubles;
    const free = table.freeBytes;
    this.info = {
      index,
      filesystem: "FAT32",
      start: geometry.start,
      length: geometry.length,
      label: geometry.label,
      encrypted: false,
      used: geometry.clusterCount * geometry.clusterBytes - free,
      free,
      clusterBytes: geometry.clusterBytes,
    };
  }

  freeRuns(): Iterable<Extent> {
    return this.#table.freeRuns();
  }

  async *list(): AsyncGenerator<{ files: ListedFile[]; troubles: Trouble[] }> {
    this.#paths.set(this.#geometry.rootCluster, "/");
    yield* this.#walk([{ firstCluster: this.#geometry.rootCluster, path: "/", erased: false }]);
  }

  mayDig(bytes: Uint8Array, at: number): boolean {
    return mayBeFolderBlock(bytes, at);
  }

  async dig(block: Uint8Array, at: number): Promise<{ files: ListedFile[]; troubles: Trouble[] }> {
    const cluster = this.#table.clusterAt(at);
    const found = { files: [] as ListedFile[], troubles: [] as Trouble[] };
    if (this.#read.has(cluster) || !this.#table.isFree(cluster)) return found;
    const dots = readDots(block);
    if (dots?.self === cluster) {
      const parent = this.#paths.get(dots.parent || this.#geometry.rootCluster);
      // The folder's own name stood in its parent, and is gone.
      const path = parent === undefined ? null : `${parent}?/`;
      for await (const batch of this.#walk([{ firstCluster: cluster, path, erased: true }])) {
        found.files.push(...batch.files);
        found.troubles.push(...batch.troubles);
      }
    } else if (!dots && looksLikeFolderBlock(block)) {
      this.#read.add(cluster);
      const extents = this.#table.extentsOf([cluster]);
      const opened = this.#open(block, extents, { firstCluster: cluster, path: null, erased: true });
      found.files.push(...opened.files);
      found.troubles.push(...opened.troubles);
    }
    return found;
  }

  async *#walk(folders: Folder[]): AsyncGenerator<{ files: ListedFile[]; troubles: Trouble[] }> {
    // Present folders first: an erased entry may lead to a folder that was only moved.
    const present = folders.filter((folder) => !folder.erased);
    const erased = folders.filter((folder) => folder.erased);
    for (let walked = 0; walked < MAX_FOLDERS; walked++) {
      const folder = present.pop() ?? erased.pop();
      if (!folder) return;
      const { bytes, extents, troubles } = await this.#readFolder(folder);
      if (bytes.length === 0) {
        if (troubles.length > 0) yield { files: [], troubles };
        continue;
      }
      const opened = this.#open(bytes, extents, folder);
      for (const inner of opened.folders) (inner.erased ? erased : present).push(inner);
      yield { files: opened.files, troubles: [...troubles, ...opened.troubles] };
    }
    yield {
      files: [],
      troubles: [{ what: "more folders than a card can hold: the rest is not walked", at: this.#geometry.start, length: 0 }],
    };
  }

  async #readFolder(folder: Folder): Promise<{ bytes: Uint8Array; extents: Extent[]; troubles: Trouble[] }> {
    const nothing = { bytes: new Uint8Array(0), extents: [], troubles: [] as Trouble[] };
    const most = Math.max(1, Math.ceil(MAX_FOLDER_BYTES / this.#geometry.clusterBytes));
    if (folder.erased) return this.#readErasedFolder(folder, most);
    const { clusters, complete } = this.#table.chain(folder.firstCluster, most);
    const fresh = clusters.filter((cluster) => !this.#read.has(cluster));
    const place = this.#table.isOnVolume(folder.firstCluster) ? this.#table.offsetOf(folder.firstCluster) : this.#geometry.start;
    const named = folder.path ?? "a folder";
    if (fresh.length < clusters.length)
      return { ...nothing, troubles: [{ what: `${named} leads into itself or into another folder`, at: place, length: 0 }] };
    const troubles = complete ? [] : [{ what: `the chain of ${named} breaks off`, at: place, length: 0 }];
    for (const cluster of clusters) this.#read.add(cluster);
    const extents = this.#table.extentsOf(clusters);
    return { bytes: await this.#gather(extents), extents, troubles };
  }

  /**
   * An erased folder's clusters. The first must say that it is one. Its chain is gone, so while its list has not come to an
   * end, the next free block that looks like a later part of a folder is taken for its continuation.
   */
  async #readErasedFolder(folder: Folder, most: number): Promise<{ bytes: Uint8Array; extents: Extent[]; troubles: Trouble[] }> {
    const { clusterBytes } = this.#geometry;
    const clusters: number[] = [];
    const pieces: Uint8Array[] = [];
    const furthest = folder.firstCluster + Math.ceil(MAX_FOLDER_SPREAD / clusterBytes);
    for (let cluster = folder.firstCluster; cluster <= furthest && clusters.length < most; cluster++) {
      const first = clusters.length === 0;
      if (!first && this.#searched > MAX_SEARCHED) break;
      this.#searched += clusterBytes;
      const block =
        this.#table.isFree(cluster) && !this.#read.has(cluster)
          ? await this.#source.read(this.#table.offsetOf(cluster), clusterBytes)
          : null;
      const dots = block && readDots(block);
      if (!block || (first ? dots?.self !== cluster : dots !== null || !looksLikeFolderBlock(block))) {
        if (first) break;
        continue;
      }
      this.#read.add(cluster);
      clusters.push(cluster);
      pieces.push(block);
      if (!isFullBlock(block)) break;
    }
    const bytes = new Uint8Array(clusters.length * clusterBytes);
    pieces.forEach((piece, index) => {
      bytes.set(piece, index * clusterBytes);
    });
    return { bytes, extents: this.#table.extentsOf(clusters), troubles: [] };
  }

  async #gather(extents: readonly Extent[]): Promise<Uint8Array> {
    const bytes = new Uint8Array(totalLength(extents));
    let done = 0;
    for (const { offset, length } of extents) {
      bytes.set(await this.#source.read(offset, length), done);
      done += length;
    }
    return bytes;
  }

  #open(bytes: Uint8Array, extents: readonly Extent[], folder: Folder): Opened {
    const opened: Opened = { files: [], troubles: [], folders: [] };
    for (const entry of readEntries(bytes)) {
      const erased = entry.erased || folder.erased;
      const path = folder.path === null || folder.path.length + entry.name.length > MAX_PATH ? null : folder.path + entry.name;
      const at = placeOf(extents, entry.at);
      if (entry.folder) {
        if (!this.#table.isOnVolume(entry.firstCluster)) continue;
        if (path !== null && !this.#paths.has(entry.firstCluster)) this.#paths.set(entry.firstCluster, `${path}/`);
        opened.folders.push({ firstCluster: entry.firstCluster, path: path === null ? null : `${path}/`, erased });
      } else if (erased) {
        if (entry.size > 0 && this.#table.isOnVolume(entry.firstCluster)) {
          const file = this.#erasedFile(entry, path, at, folder);
          if (folder.erased && entry.at >= extents[0].length) file.records.push({ what: PIECE_OF_FOLDER, at });
          opened.files.push(file);
        }
      } else opened.files.push(this.#presentFile(entry, path, at, opened.troubles));
    }
    return opened;
  }

  #presentFile(entry: Entry, path: string | null, at: number, troubles: Trouble[]): ListedFile {
    const needed = Math.ceil(entry.size / this.#geometry.clusterBytes);
    const { clusters } = entry.size === 0 ? { clusters: [] } : this.#table.chain(entry.firstCluster, needed);
    if (clusters.length < needed)
      troubles.push({
        what: `the chain of ${path ?? entry.name} breaks off after ${clusters.length} of ${needed} clusters`,
        at,
        length: 32,
      });
    return {
      at,
      erased: false,
      name: entry.name,
      path,
      size: entry.size,
      modified: entry.modified,
      placements: [
        { extents: firstBytes(this.#table.extentsOf(clusters), entry.size), how: `its chain leads through ${clusters.length} clusters` },
      ],
      firstByte: clusters.length > 0 ? this.#table.offsetOf(clusters[0]) : null,
      records: [{ what: "its entry in the folder list", at }],
    };
  }

  #erasedFile(entry: Entry, path: string | null, at: number, folder: Folder): ListedFile & { records: Record[] } {
    const where = folder.path === null ? "a folder that is lost itself" : folder.path;
    const what = entry.erased ? `its entry in ${where} is marked deleted` : `its entry stands in the erased folder ${where}`;
    const records = [{ what, at }];
    if (entry.nameIs === "lost letter") records.push({ what: "the first letter of its name was overwritten by the deletion", at });
    if (entry.nameIs === "short alias") records.push({ what: `of its long name only the beginning is left: ${entry.partOfName}`, at });
    return {
      at,
      erased: true,
      name: entry.name,
      path,
      size: entry.size,
      modified: entry.modified,
      placements: erasedPlacements(this.#table, entry.firstCluster, entry.size),
      firstByte: this.#table.offsetOf(entry.firstCluster),
      records,
    };
  }
}

/** Opens a FAT32 volume that begins at `start` of the source. Null: there is none. */
export async function openFat(source: PatientSource, start: number, length: number, index: number): Promise<Volume | null> {
  const found = await findGeometry(source, start, length);
  if (!found) return null;
  const { table, troubles } = await AllocationTable.read(source, found.geometry);
  if (found.fromBackup) troubles.push({ what: "the boot sector is lost; its copy is used", at: start, length: 512 });
  const declared = found.geometry.dataOffset + found.geometry.clusterCount * found.geometry.clusterBytes;
  if (declared > source.size)
    troubles.push({
      what: `the volume is cut off: its last ${declared - source.size} bytes are missing`,
      at: source.size,
      length: declared - source.size,
    });
  return new FatVolume(source, table, index, troubles);
}
