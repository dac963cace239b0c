import { type ClusterSpace, FIRST_CLUSTER } from "../clusters/cluster-map.ts";

/** Something that says by which number its place went, in a volume that was formatted over: where it lies, and that cluster. */
export interface Witness {
  readonly at: number;
  readonly cluster: number;
}

/** Cluster sizes that formatting tools give: 512 bytes to 32 MiB (exFAT §3.1.15). */
const SIZES = Array.from({ length: 17 }, (_, index) => 512 << index);
const SECTOR = 512;
/** Clusters that must agree before a layout is believed: of witnesses that say where they lie, and of such as may be met by chance. */
const LEAST = { sure: 2, chance: 3 };
/** Layouts that are counted at once. */
const MAX_VOTES = 4_000_000;

/**
 * The layout of a volume that was formatted over: each witness says offset = data start + (number − 2) × cluster size, and the
 * size that most of them agree on is the old one. `sure`: blocks of folders that name themselves; `chance`: files' first clusters by
 * their entries, with places where contents of their size begin. Null: they do not agree on one.
 */
export function formerLayout(
  sure: readonly Witness[],
  chance: readonly Witness[],
  { from, to, not }: { readonly from: number; readonly to: number; readonly not: Pick<ClusterSpace, "dataOffset" | "clusterBytes"> | null },
): ClusterSpace | null {
  const votes = new Map<number, { dataOffset: number; clusterBytes: number; sure: Set<number>; all: Set<number> }>();
  for (const [size, clusterBytes] of SIZES.entries())
    for (const witnesses of [sure, chance])
      for (const { at, cluster } of witnesses) {
        const dataOffset = at - (cluster - FIRST_CLUSTER) * clusterBytes;
        if (dataOffset < from || dataOffset >= to || dataOffset % SECTOR !== 0) continue;
        if (not && dataOffset === not.dataOffset && clusterBytes === not.clusterBytes) continue;
        const key = (dataOffset / SECTOR) * SIZES.length + size;
        const vote = votes.get(key) ?? { dataOffset, clusterBytes, sure: new Set(), all: new Set() };
        vote.all.add(cluster);
        if (witnesses === sure) vote.sure.add(cluster);
        if (!votes.has(key) && votes.size >= MAX_VOTES) continue;
        votes.set(key, vote);
      }
  const [best, second] = [...votes.values()].sort((a, b) => b.all.size - a.all.size || a.clusterBytes - b.clusterBytes);
  if (!best || (best.sure.size < LEAST.sure && best.all.size < LEAST.chance)) return null;
  if (second && second.all.size === best.all.size) return null;
  const { dataOffset, clusterBytes } = best;
  return { dataOffset, clusterBytes, clusterCount: Math.floor((to - dataOffset) / clusterBytes) };
}
