import { type Extent, firstBytes, HOLE, hole } from "../../bytes/extents.ts";
import type { Placement } from "../volume.ts";
import type { ClusterMap } from "./cluster-map.ts";
import type { FolderEntry } from "./folder-format.ts";
import type { Owners } from "./owners.ts";

/** Stretches that one erased file is looked for in: more is no file, but noise. */
const MAX_STRETCHES = 4096;
/** Clusters in use that are stepped over before we stop believing. */
const MAX_SKIPPED = 1 << 20;
/** What stands behind a file's end is left sector by sector. */
const SECTOR = 512;

type Sought = Pick<FolderEntry, "firstCluster" | "size" | "modified" | "created" | "inOneRun">;

/** A cluster, where it is still the file's. Of one that was given to another, what stands behind that one's end is left. */
function piecesOf(map: ClusterMap, owners: Owners, cluster: number): Extent[] {
  const { clusterBytes } = map.space;
  const offset = map.offsetOf(cluster);
  if (map.isFree(cluster)) return [{ offset, length: clusterBytes }];
  const used = Math.ceil((owners.of(cluster)?.used ?? clusterBytes) / SECTOR) * SECTOR;
  return used < clusterBytes ? [hole(used), { offset: offset + used, length: clusterBytes - used }] : [hole(clusterBytes)];
}

/** The first `size` bytes of what the pieces hold, a lost end cut off. Null: nothing of it is left. */
function placementOf(pieces: readonly Extent[], size: number, how: string): Placement | null {
  const extents = firstBytes(pieces, size);
  while (extents.at(-1)?.offset === HOLE) extents.pop();
  const lost = extents.reduce((sum, { offset, length }) => sum + (offset === HOLE ? length : 0), 0);
  return extents.length > 0 ? { extents, lost, how } : null;
}

/**
 * Where the content of an erased file may lie, likeliest first. Where its chain still stands, there. Else the straight run
 * from its first cluster: clusters in use that were taken after the file was written are lost to it, those taken before were
 * stepped over when it was written. Where no times tell, both readings are offered.
 */
export function erasedPlacements(map: ClusterMap, owners: Owners, file: Sought): Placement[] {
  const { firstCluster, size } = file;
  const count = Math.ceil(size / map.space.clusterBytes);
  if (size === 0 || !map.isOnVolume(firstCluster)) return [];
  const written = Math.max(file.modified ?? 0, file.created ?? 0);
  const firstOwner = map.isFree(firstCluster) ? null : owners.of(firstCluster);
  // The very file under another name, longer or shorter now: it is present.
  if (firstOwner?.start === firstCluster && firstOwner.since !== null && firstOwner.since <= written) return [];
  const placements: Placement[] = [];
  const offer = (clusters: readonly number[], how: string) => {
    const placement = placementOf(
      clusters.flatMap((cluster) => piecesOf(map, owners, cluster)),
      size,
      how,
    );
    if (placement) placements.push(placement);
  };
  if (file.inOneRun !== true) {
    const { clusters, complete } = map.chain(firstCluster, count);
    if (clusters.length === count && complete && count > 1)
      offer(clusters, `its chain through ${count} clusters still stands in the allocation table`);
  }
  const straight = map.run(firstCluster, count);
  const taken = straight.filter((cluster) => !map.isFree(cluster)).length;
  if (taken === 0) {
    const whole = straight.length === count;
    offer(
      straight,
      whole
        ? `all ${count} clusters from its first one on are free, in one run`
        : "free from its first cluster up to the end of the volume",
    );
    return placements;
  }
  if (file.inOneRun === true) {
    offer(straight, `its entry says that it lies in one run; ${taken} of its ${count} clusters were given to others`);
    return placements;
  }
  const timed: number[] = [];
  for (let cluster = firstCluster, skipped = 0; timed.length < count && cluster <= map.lastCluster && skipped < MAX_SKIPPED; cluster++) {
    const since = map.isFree(cluster) ? null : (owners.of(cluster)?.since ?? null);
    if (map.isFree(cluster) || (since !== null && since > written)) timed.push(cluster);
    else skipped++;
  }
  offer(
    timed,
    "from its first cluster on, clusters that were given to others after it was written are lost, those given before are stepped over",
  );
  if (!map.isFree(firstCluster)) return placements;
  const stretches = map.freeFrom(firstCluster, count, MAX_STRETCHES);
  if (timed.some((cluster) => !map.isFree(cluster)))
    placements.push({
      extents: firstBytes(stretches, size),
      how: `${count} clusters are free from its first one on; clusters in use in between are skipped`,
    });
  placements.push({
    extents: firstBytes(stretches.slice(0, 1), size),
    how: "free from its first cluster up to where other content lies now",
  });
  return placements;
}
