import type { PatientSource } from "../../bytes/patient-source.ts";
import { ClusterMap } from "../clusters/cluster-map.ts";
import { ClusterVolume } from "../clusters/cluster-volume.ts";
import { cutOff, type Volume } from "../volume.ts";
import { fatFolders } from "./directory.ts";
import { findGeometry } from "./geometry.ts";
import { readTable } from "./table.ts";

/** Opens a FAT12, FAT16 or FAT32 volume that begins at `start` of the source. Null: there is none. */
export async function openFat(source: PatientSource, start: number, length: number, index: number): Promise<Volume | null> {
  const found = await findGeometry(source, start, length);
  if (!found) return null;
  const { geometry } = found;
  const { links, troubles } = await readTable(source, geometry);
  if (found.fromBackup) troubles.push({ what: "the boot sector is lost; its copy is used", at: start, length: 512 });
  troubles.push(...cutOff(geometry.dataOffset + geometry.clusterCount * geometry.clusterBytes, source.size));
  const map = new ClusterMap(geometry, links, Math.min(source.size, geometry.start + geometry.length));
  const free = map.freeBytes;
  return new ClusterVolume({
    source,
    map,
    format: fatFolders,
    root: geometry.root,
    own: [],
    troubles,
    info: {
      index,
      filesystem: geometry.type,
      start: geometry.start,
      length: geometry.length,
      label: geometry.label,
      encrypted: false,
      used: geometry.clusterCount * geometry.clusterBytes - free,
      free,
      clusterBytes: geometry.clusterBytes,
    },
  });
}
