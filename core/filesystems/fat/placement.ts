import { firstBytes } from "../../bytes/extents.ts";
import type { Placement } from "../../medium/volume.ts";
import type { AllocationTable } from "./table.ts";

/** Stretches that one erased file is looked for in: more is no file, but noise. */
const MAX_STRETCHES = 4096;

/**
 * Where the content of an erased file may lie. Deleting clears its chain, so only the first cluster and the size are
 * left: the straight run from there, over clusters that are free now. Where clusters in use interrupt that run they were
 * given to others before or after, so both readings are offered: skipping them, and stopping at the first of them.
 */
export function erasedPlacements(table: AllocationTable, firstCluster: number, size: number): Placement[] {
  if (size === 0 || !table.isFree(firstCluster)) return [];
  const clusters = Math.ceil(size / table.geometry.clusterBytes);
  const stretches = table.freeFrom(firstCluster, clusters, MAX_STRETCHES);
  const skipping: Placement = { extents: firstBytes(stretches, size), how: "" };
  if (stretches.length === 1) return [{ ...skipping, how: `all ${clusters} clusters from its first one on are free, in one run` }];
  return [
    { ...skipping, how: `${clusters} clusters are free from its first one on; clusters in use in between are skipped` },
    { extents: firstBytes(stretches.slice(0, 1), size), how: "free from its first cluster up to where other content lies now" },
  ];
}
