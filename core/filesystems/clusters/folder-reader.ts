import { type Extent, extentsSource, totalLength } from "../../bytes/extents.ts";
import type { PatientSource } from "../../bytes/patient-source.ts";
import type { Trouble } from "../../bytes/trouble.ts";
import type { ClusterMap } from "./cluster-map.ts";
import type { FolderEntry, FolderFormat } from "./folder-format.ts";
import type { Owners } from "./owners.ts";

/** The documents' limit of a folder: 65,536 entries of 32 bytes in FAT, 256 MiB in exFAT; more than this is damage. */
const MAX_FOLDER_BYTES = 8 * 1024 * 1024;
/** Bytes after an erased folder's beginning in which its later parts are looked for: far enough for a card filled in turns. */
const MAX_FOLDER_SPREAD = 64 * 1024 * 1024;
/** Bytes looked through for later parts of erased folders in all: a listing stays quick. */
const MAX_SEARCHED = 512 * 1024 * 1024;

export interface Folder {
  readonly firstCluster: number;
  /** With a slash at its end. Null: not known. */
  readonly path: string | null;
  readonly erased: boolean;
  /** Where its list lies, for the root of FAT12 and FAT16, which is no cluster. */
  readonly fixed?: Extent;
  /** It is the root of a volume that was formatted over: a folder that does not say where it lies. */
  readonly isRoot?: true;
  /** What its entry says, where one leads to it. */
  readonly entry?: FolderEntry;
}

/** Reads the lists of folders, present and erased ones, each cluster once. */
export class FolderReader {
  readonly #source: PatientSource;
  readonly #map: ClusterMap;
  readonly #format: FolderFormat;
  readonly #start: number;
  readonly #owners: Owners;
  /** Clusters of folders that were read, so that none is read twice and loops end. */
  readonly #read = new Set<number>();
  #searched = 0;

  constructor(
    parts: {
      readonly source: PatientSource;
      readonly map: ClusterMap;
      readonly format: FolderFormat;
      readonly info: { readonly start: number };
    },
    owners: Owners,
  ) {
    this.#source = parts.source;
    this.#map = parts.map;
    this.#format = parts.format;
    this.#start = parts.info.start;
    this.#owners = owners;
  }

  wasRead(cluster: number): boolean {
    return this.#read.has(cluster);
  }

  noteRead(cluster: number): void {
    this.#read.add(cluster);
  }

  /** Reads a folder's list: bytes, where they lie, and what is to be said of it. */
  async read(folder: Folder): Promise<{ bytes: Uint8Array; extents: Extent[]; troubles: Trouble[] }> {
    const nothing = { bytes: new Uint8Array(0), extents: [], troubles: [] as Trouble[] };
    if (folder.fixed) {
      const content = extentsSource(this.#source, [folder.fixed]);
      return { bytes: await content.read(0, content.size), extents: [folder.fixed], troubles: [] };
    }
    const { clusterBytes } = this.#map.space;
    const most = Math.max(1, Math.ceil(MAX_FOLDER_BYTES / clusterBytes));
    if (folder.erased) return this.#readErased(folder, most);
    const inOneRun = folder.entry?.inOneRun === true ? folder.entry : null;
    const { clusters, complete } = inOneRun
      ? { clusters: this.#map.run(folder.firstCluster, Math.min(most, Math.ceil(inOneRun.size / clusterBytes))), complete: true }
      : this.#map.chain(folder.firstCluster, most);
    const fresh = clusters.filter((cluster) => !this.#read.has(cluster));
    const place = this.#map.isOnVolume(folder.firstCluster) ? this.#map.offsetOf(folder.firstCluster) : this.#start;
    const named = folder.path ?? "a folder";
    if (fresh.length < clusters.length)
      return { ...nothing, troubles: [{ what: `${named} leads into itself or into another folder`, at: place, length: 0 }] };
    const troubles: Trouble[] = complete ? [] : [{ what: `the chain of ${named} breaks off`, at: place, length: 0 }];
    for (const cluster of clusters) {
      this.#read.add(cluster);
      this.#map.own(cluster);
    }
    this.#owners.note(clusters, folder.entry ? (folder.entry.created ?? folder.entry.modified) : null);
    const extents = this.#map.extentsOf(clusters);
    const content = extentsSource(this.#source, extents);
    const bytes = (await content.read(0, content.size)).slice();
    let done = 0;
    for (const { offset, length } of extents) {
      const lost = this.#source.unreadable.within(offset, length);
      for (const hole of lost) bytes.fill(this.#format.filler, done + hole.offset - offset, done + hole.offset - offset + hole.length);
      if (lost.length > 0)
        troubles.push({
          what: `${totalLength(lost)} bytes of the list of ${named} cannot be read: files named there are missing`,
          at: offset,
          length,
        });
      done += length;
    }
    return { bytes, extents, troubles };
  }

  /**
   * An erased folder's clusters: its run or chain where that still stands. Else the first must say that it is a folder, and
   * while its list has not come to an end, the next free block that looks like a later part is taken for its continuation.
   */
  async #readErased(folder: Folder, most: number): Promise<{ bytes: Uint8Array; extents: Extent[]; troubles: Trouble[] }> {
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
      const block = isOurs ? await this.#source.read(this.#map.offsetOf(cluster), clusterBytes) : null;
      if (!block || !this.#goesOn(block, cluster, first, folder.isRoot === true)) {
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

  #goesOn(block: Uint8Array, cluster: number, first: boolean, isRoot: boolean): boolean {
    const dots = this.#format.readDots(block);
    if (first && isRoot) return this.#format.looksLikeRoot(block);
    if (first) return dots ? dots.self === cluster : !this.#format.hasDots && this.#format.looksLikeFolderBlock(block);
    return dots === null && this.#format.looksLikeFolderBlock(block);
  }
}
