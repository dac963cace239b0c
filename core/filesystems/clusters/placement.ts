import { type Extent, firstBytes, hole } from "../../bytes/extents.ts";
import type { Placement } from "../../medium/volume.ts";
import type { ClusterMap } from "./cluster-map.ts";
import type { FolderEntry } from "./folder-format.ts";
import type { Owners } from "./owners.ts";

/** Stretches that one erased file is looked for in: more is no file, but noise. */
const MAX_STRETCHES = 4096;
/** Clusters in use that are stepped over before we stop believing. */
const MAX_SKIPPED = 1 << 20;

type Sought = Pick<FolderEntry, "firstCluster" | "size" | "modified" | "created" | "inOneRun">;

/** Stretches with holes in them, the lost end cut off. */
function withHoles(pieces: readonly (Extent | null)[], clusterBytes: number, size: number): { extents: Extent[]; lost: number } {
  let end = pieces.length;
  while (end > 0 && pieces[end - 1] === null) end--;
  const kept = pieces.slice(0, end);
  const lost = kept.filter((piece) => piece === null).length * clusterBytes;
  return {
    extents: firstBytes(
      kept.map((piece) => piece ?? hole(clusterBytes)),
      size,
    ),
    lost,
  };
}

/**
 * Where the content of an erased file may lie, likeliest first. Where its chain still stands, there. Else the straight run
 * from its first cluster: clusters in use that were taken after the file was written are lost to it, those taken before were
 * stepped over when it was written. Where no times tell, both readings are offered.
 */
export function erasedPlacements(map: ClusterMap, owners: Owners, file: Sought): Placement[] {
  const { clusterBytes } = map.space;
  const { firstCluster, size } = file;
  const count = Math.ceil(size / clusterBytes);
  if (size === 0 || !map.isOnVolume(firstCluster)) return [];
  const written = Math.max(file.modified ?? 0, file.created ?? 0);
  const firstOwner = map.isFree(firstCluster) ? null : owners.of(firstCluster);
  // The very file under another name, longer or shorter now: it is present.
  if (firstOwner && firstOwner.start === firstCluster && firstOwner.since !== null && firstOwner.since <= written) return [];
  const pieceOf = (cluster: number): Extent | null =>
    map.isFree(cluster) ? { offset: map.offsetOf(cluster), length: clusterBytes } : null;
  const placements: Placement[] = [];
  const offer = (pieces: readonly (Extent | null)[], how: string) => {
    const { extents, lost } = withHoles(pieces, clusterBytes, size);
    if (pieces.some((piece) => piece !== null)) placements.push({ extents, lost, how });
  };
  if (file.inOneRun !== true) {
    const { clusters, complete } = map.chain(firstCluster, count);
    if (clusters.length === count && complete && count > 1)
      offer(clusters.map(pieceOf), `its chain through ${count} clusters still stands in the allocation table`);
  }
  const straight = map.run(firstCluster, count);
  const taken = straight.filter((cluster) => !map.isFree(cluster));
  if (taken.length === 0) {
    const how =
      straight.length === count
        ? `all ${count} clusters from its first one on are free, in one run`
        : "free from its first cluster up to the end of the volume";
    offer(straight.map(pieceOf), how);
    return placements;
  }
  if (file.inOneRun === true) {
    offer(straight.map(pieceOf), `its entry says that it lies in one run; ${taken.length} of its ${count} clusters were given to others`);
    return placements;
  }
  const timed: (Extent | null)[] = [];
  for (let cluster = firstCluster, skipped = 0; timed.length < count && cluster <= map.lastCluster && skipped < MAX_SKIPPED; cluster++) {
    const since = map.isFree(cluster) ? null : (owners.of(cluster)?.since ?? null);
    if (map.isFree(cluster)) timed.push(pieceOf(cluster));
    else if (since !== null && since > written) timed.push(null);
    else skipped++;
  }
  offer(
    timed,
    "from its first cluster on, clusters that were given to others after it was written are lost, those given before are stepped over",
  );
  if (!map.isFree(firstCluster)) return placements;
  const stretches = map.freeFrom(firstCluster, count, MAX_STRETCHES);
  placements.push(
    {
      extents: firstBytes(stretches, size),
      how: `${count} clusters are free from its first one on; clusters in use in between are skipped`,
    },
    { extents: firstBytes(stretches.slice(0, 1), size), how: "free from its first cluster up to where other content lies now" },
  );
  return placements;
}
