import type { Extent } from "../../bytes/extents.ts";
import type { PatientSource } from "../../bytes/patient-source.ts";
import type { Trouble } from "../../bytes/trouble.ts";
import type { Geometry } from "./geometry.ts";
import { FAT_BAD, FAT_END, FAT_ENTRY_MASK, FIRST_CLUSTER } from "./layout.ts";

/** Table bytes read at a time. */
const WINDOW = 1024 * 1024;

/** The file allocation table in memory: which clusters are free, and how chains run. */
export class AllocationTable {
  readonly #entries: Uint32Array;
  readonly geometry: Geometry;
  /** Bytes of the volume's data area that the source really has (cut-off images). */
  readonly #lastCluster: number;
  #stretches: { first: Int32Array; last: Int32Array } | null = null;

  private constructor(geometry: Geometry, entries: Uint32Array, sourceSize: number) {
    this.geometry = geometry;
    this.#entries = entries;
    const there = Math.floor((Math.min(sourceSize, geometry.start + geometry.length) - geometry.dataOffset) / geometry.clusterBytes);
    this.#lastCluster = FIRST_CLUSTER + Math.min(geometry.clusterCount, Math.max(0, there)) - 1;
  }

  /** Reads the first table; where it cannot be read, its copy speaks for it. */
  static async read(source: PatientSource, geometry: Geometry): Promise<{ table: AllocationTable; troubles: Trouble[] }> {
    const bytes = new Uint8Array((geometry.clusterCount + FIRST_CLUSTER) * 4);
    const troubles: Trouble[] = [];
    const [firstAt, copyAt] = geometry.fatOffsets;
    const there = Math.min(bytes.length, Math.max(0, source.size - firstAt));
    for (let done = 0; done < there; done += WINDOW) bytes.set(await source.read(firstAt + done, Math.min(WINDOW, there - done)), done);
    for (const hole of source.unreadable.list()) {
      const from = Math.max(hole.offset, firstAt);
      const length = Math.min(hole.offset + hole.length, firstAt + there) - from;
      if (length <= 0) continue;
      const copyThere = copyAt !== undefined && copyAt + from - firstAt + length <= source.size;
      if (copyThere) bytes.set(await source.read(copyAt + from - firstAt, length), from - firstAt);
      const what = copyThere
        ? "a part of the allocation table cannot be read; its copy is used there"
        : "a part of the allocation table cannot be read";
      troubles.push({ what, at: from, length });
    }
    const entries = new Uint32Array(bytes.length / 4);
    for (let index = 0; index < entries.length; index++) {
      const at = index * 4;
      entries[index] = (bytes[at] | (bytes[at + 1] << 8) | (bytes[at + 2] << 16) | (bytes[at + 3] << 24)) & FAT_ENTRY_MASK;
    }
    return { table: new AllocationTable(geometry, entries, source.size), troubles };
  }

  /** The one gate for cluster numbers: on the volume, and on the source. */
  isOnVolume(cluster: number): boolean {
    return cluster >= FIRST_CLUSTER && cluster <= this.#lastCluster;
  }

  isFree(cluster: number): boolean {
    return this.isOnVolume(cluster) && this.#entries[cluster] === 0;
  }

  get lastCluster(): number {
    return this.#lastCluster;
  }

  offsetOf(cluster: number): number {
    return this.geometry.dataOffset + (cluster - FIRST_CLUSTER) * this.geometry.clusterBytes;
  }

  clusterAt(offset: number): number {
    return FIRST_CLUSTER + Math.floor((offset - this.geometry.dataOffset) / this.geometry.clusterBytes);
  }

  /** The clusters of a chain from its first one. `complete` is false where it breaks, loops or is over the bound. */
  chain(first: number, most: number): { clusters: number[]; complete: boolean } {
    const clusters: number[] = [];
    const seen = new Set<number>();
    let cluster = first;
    while (clusters.length < most) {
      if (!this.isOnVolume(cluster) || seen.has(cluster)) return { clusters, complete: false };
      seen.add(cluster);
      clusters.push(cluster);
      const next = this.#entries[cluster];
      if (next >= FAT_END) return { clusters, complete: true };
      if (next === 0 || next === FAT_BAD) return { clusters, complete: false };
      cluster = next;
    }
    return { clusters, complete: false };
  }

  /** Clusters one after the other as stretches of bytes. */
  extentsOf(clusters: readonly number[]): Extent[] {
    const extents: { offset: number; length: number }[] = [];
    const { clusterBytes } = this.geometry;
    for (const cluster of clusters) {
      const offset = this.offsetOf(cluster);
      const last = extents.at(-1);
      if (last && last.offset + last.length === offset) last.length += clusterBytes;
      else extents.push({ offset, length: clusterBytes });
    }
    return extents;
  }

  /** Stretches of free clusters in order: [first, last] of each, both inclusive. */
  get #freeStretches(): { first: Int32Array; last: Int32Array } {
    if (this.#stretches) return this.#stretches;
    const first: number[] = [];
    const last: number[] = [];
    for (let cluster = FIRST_CLUSTER; cluster <= this.#lastCluster; cluster++) {
      if (this.#entries[cluster] !== 0) continue;
      first.push(cluster);
      while (cluster < this.#lastCluster && this.#entries[cluster + 1] === 0) cluster++;
      last.push(cluster);
    }
    this.#stretches = { first: Int32Array.from(first), last: Int32Array.from(last) };
    return this.#stretches;
  }

  *freeRuns(): Generator<Extent> {
    const { first, last } = this.#freeStretches;
    for (let index = 0; index < first.length; index++)
      yield { offset: this.offsetOf(first[index]), length: (last[index] - first[index] + 1) * this.geometry.clusterBytes };
  }

  /**
   * The next `count` free clusters from a free one on, clusters in use skipped, as stretches of bytes.
   * Stops early at the end of the volume, or after `most` stretches.
   */
  freeFrom(cluster: number, count: number, most: number): Extent[] {
    const { first, last } = this.#freeStretches;
    let low = 0;
    let high = first.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (last[middle] >= cluster) high = middle;
      else low = middle + 1;
    }
    const extents: Extent[] = [];
    for (let left = count, from = cluster; low < first.length && left > 0 && extents.length < most; low++) {
      from = Math.max(from, first[low]);
      const take = Math.min(left, last[low] - from + 1);
      extents.push({ offset: this.offsetOf(from), length: take * this.geometry.clusterBytes });
      left -= take;
    }
    return extents;
  }

  /** Bytes that no cluster chain uses. */
  get freeBytes(): number {
    const { first, last } = this.#freeStretches;
    return first.reduce((sum, from, index) => sum + last[index] - from + 1, 0) * this.geometry.clusterBytes;
  }
}
