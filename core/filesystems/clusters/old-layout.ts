import { type ClusterSpace, FIRST_CLUSTER } from "./cluster-map.ts";

/** A block that begins a folder of a volume that was formatted over: where it lies, and what its `.` and `..` say. */
export interface StrangeFolder {
  readonly at: number;
  readonly self: number;
  readonly parent: number;
}

/** Cluster sizes that formatting tools give: 512 bytes to 256 KiB. */
const SIZES = Array.from({ length: 10 }, (_, index) => 512 << index);
/** Folders that must agree before a layout is believed. */
const LEAST = 2;

/**
 * The layout of a volume that was formatted over, from folders whose own cluster number does not fit the present one: each
 * says offset = data start + (number − 2) × cluster size, and the size that most of them agree on is the old one.
 */
export function oldLayout(folders: readonly StrangeFolder[], end: number): ClusterSpace | null {
  const votes = new Map<string, { dataOffset: number; clusterBytes: number; numbers: Set<number> }>();
  for (const clusterBytes of SIZES)
    for (const { at, self } of folders) {
      const dataOffset = at - (self - FIRST_CLUSTER) * clusterBytes;
      if (dataOffset < 0 || dataOffset % 512 !== 0) continue;
      const key = `${dataOffset}/${clusterBytes}`;
      const vote = votes.get(key) ?? { dataOffset, clusterBytes, numbers: new Set() };
      vote.numbers.add(self);
      votes.set(key, vote);
    }
  const [best, second] = [...votes.values()].sort((a, b) => b.numbers.size - a.numbers.size || a.clusterBytes - b.clusterBytes);
  if (!best || best.numbers.size < LEAST || (second && second.numbers.size === best.numbers.size)) return null;
  return {
    dataOffset: best.dataOffset,
    clusterBytes: best.clusterBytes,
    clusterCount: Math.floor((end - best.dataOffset) / best.clusterBytes),
  };
}
