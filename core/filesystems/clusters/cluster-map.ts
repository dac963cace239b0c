import type { Extent } from "../../bytes/extents.ts";

/** The first data cluster of FAT and exFAT. */
export const FIRST_CLUSTER = 2;
/** What a link says where it leads to no cluster. */
export const Link = { free: 0, bad: 0x0fff_fff7, end: 0x0fff_fff8 } as const;

/** Where clusters lie. Offsets are absolute bytes. */
export interface ClusterSpace {
  readonly dataOffset: number;
  readonly clusterBytes: number;
  readonly clusterCount: number;
}

/** Clusters of a volume: which are in use, how chains run, and after a walk, which of them files really have. */
export class ClusterMap {
  readonly space: ClusterSpace;
  /** Highest cluster that the source really has (cut-off images). */
  readonly lastCluster: number;
  /** The allocation table's entries, in the form of FAT32. */
  readonly #links: Uint32Array;
  /** A bit for each cluster that is in use. */
  #used: Uint8Array;
  /** A bit for each cluster that a present file or folder leads to. */
  readonly #owned: Uint8Array;
  #stretches: { first: Int32Array; last: Int32Array } | null = null;

  /** `used`: a bit for each cluster from the first one on; without it, the links say which are in use. `end`: bytes of the source. */
  constructor(space: ClusterSpace, links: Uint32Array, end: number, used?: Uint8Array) {
    this.space = space;
    this.#links = links;
    const there = Math.floor((end - space.dataOffset) / space.clusterBytes);
    this.lastCluster = FIRST_CLUSTER + Math.min(space.clusterCount, Math.max(0, there)) - 1;
    this.#owned = new Uint8Array(Math.ceil((space.clusterCount + FIRST_CLUSTER) / 8));
    this.#used = used ?? new Uint8Array(this.#owned.length);
    if (!used)
      for (let cluster = FIRST_CLUSTER; cluster < links.length; cluster++)
        if (links[cluster] !== Link.free) this.#used[cluster >> 3] |= 1 << (cluster & 7);
  }

  /** The one gate for cluster numbers: on the volume, and on the source. */
  isOnVolume(cluster: number): boolean {
    return cluster >= FIRST_CLUSTER && cluster <= this.lastCluster;
  }

  isFree(cluster: number): boolean {
    return this.isOnVolume(cluster) && (this.#used[cluster >> 3] & (1 << (cluster & 7))) === 0;
  }

  offsetOf(cluster: number): number {
    return this.space.dataOffset + (cluster - FIRST_CLUSTER) * this.space.clusterBytes;
  }

  clusterAt(offset: number): number {
    return FIRST_CLUSTER + Math.floor((offset - this.space.dataOffset) / this.space.clusterBytes);
  }

  /** A present file or folder has this cluster. */
  own(cluster: number): void {
    this.#owned[cluster >> 3] |= 1 << (cluster & 7);
  }

  /** A walk begins anew: nobody has anything. */
  disown(): void {
    this.#owned.fill(0);
  }

  /** Does a present file or folder have this cluster already? */
  isOwned(cluster: number): boolean {
    return (this.#owned[cluster >> 3] & (1 << (cluster & 7))) !== 0;
  }

  /** After a walk: clusters that are marked as in use but that nothing leads to are lost, and searched as free ones are. */
  releaseLost(): { clusters: number } {
    let clusters = 0;
    for (let cluster = FIRST_CLUSTER; cluster <= this.lastCluster; cluster++) {
      const bit = 1 << (cluster & 7);
      if ((this.#owned[cluster >> 3] & bit) !== 0 || this.isFree(cluster) || this.#links[cluster] === Link.bad) continue;
      clusters++;
      this.#used[cluster >> 3] &= ~bit;
    }
    if (clusters > 0) this.#stretches = null;
    return { clusters };
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
      const next = this.#links[cluster];
      if (next >= Link.end) return { clusters, complete: true };
      if (next === Link.free || next === Link.bad) return { clusters, complete: false };
      cluster = next;
    }
    return { clusters, complete: false };
  }

  /** Clusters one after the other from `first` on, as many as the volume has. */
  run(first: number, count: number): number[] {
    return this.isOnVolume(first) ? Array.from({ length: Math.min(count, this.lastCluster - first + 1) }, (_, index) => first + index) : [];
  }

  /** Clusters one after the other as stretches of bytes. */
  extentsOf(clusters: readonly number[]): Extent[] {
    const extents: { offset: number; length: number }[] = [];
    const { clusterBytes } = this.space;
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
    for (let cluster = FIRST_CLUSTER; cluster <= this.lastCluster; cluster++) {
      if (!this.isFree(cluster)) continue;
      first.push(cluster);
      while (cluster < this.lastCluster && this.isFree(cluster + 1)) cluster++;
      last.push(cluster);
    }
    this.#stretches = { first: Int32Array.from(first), last: Int32Array.from(last) };
    return this.#stretches;
  }

  *freeRuns(): Generator<Extent> {
    const { first, last } = this.#freeStretches;
    for (let index = 0; index < first.length; index++)
      yield { offset: this.offsetOf(first[index]), length: (last[index] - first[index] + 1) * this.space.clusterBytes };
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
      extents.push({ offset: this.offsetOf(from), length: take * this.space.clusterBytes });
      left -= take;
    }
    return extents;
  }

  /** Bytes that are free. */
  get freeBytes(): number {
    const { first, last } = this.#freeStretches;
    return first.reduce((sum, from, index) => sum + last[index] - from + 1, 0) * this.space.clusterBytes;
  }
}
