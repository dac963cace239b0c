import type { PatientSource } from "../../bytes/patient-source.ts";
import type { ClusterSpace } from "../clusters/cluster-map.ts";
import { bootChecksum } from "./checks.ts";
import { BOOT_REGION_SECTORS, BOOT_SIGNATURE, BootSector, CHECKSUM_SECTOR, FILE_SYSTEM_NAME } from "./layout.ts";

/** Where the parts of an exFAT volume lie. Offsets are absolute bytes on the source. */
export interface Geometry extends ClusterSpace {
  readonly start: number;
  readonly length: number;
  readonly sectorBytes: number;
  readonly fatOffset: number;
  readonly rootCluster: number;
}

const MAX_CLUSTERS = 1 << 27;

/** Null: these bytes are no exFAT boot sector of a volume of `length` bytes at `start`. */
function readGeometry(sector: Uint8Array, start: number, length: number): Geometry | null {
  if (BootSector.FileSystemName(sector, 0) !== FILE_SYSTEM_NAME || BootSector.BootSignature(sector, 0) !== BOOT_SIGNATURE) return null;
  if (BootSector.MustBeZero(sector, 0).some((byte) => byte !== 0)) return null;
  const sectorShift = BootSector.BytesPerSectorShift(sector, 0);
  const clusterShift = BootSector.SectorsPerClusterShift(sector, 0);
  if (sectorShift < 9 || sectorShift > 12 || sectorShift + clusterShift > 25) return null;
  const sectorBytes = 1 << sectorShift;
  const clusterCount = BootSector.ClusterCount(sector, 0);
  const heap = BootSector.ClusterHeapOffset(sector, 0) * sectorBytes;
  const fat = BootSector.FatOffset(sector, 0) * sectorBytes;
  const fatBytes = BootSector.FatLength(sector, 0) * sectorBytes;
  const rootCluster = BootSector.FirstClusterOfRootDirectory(sector, 0);
  if (clusterCount === 0 || clusterCount > MAX_CLUSTERS || fat === 0 || fatBytes < (clusterCount + 2) * 4 || heap < fat + fatBytes)
    return null;
  if (heap >= length || rootCluster < 2 || rootCluster > clusterCount + 1) return null;
  return {
    start,
    length: Math.min(length, BootSector.VolumeLength(sector, 0) * sectorBytes),
    sectorBytes,
    fatOffset: start + fat,
    dataOffset: start + heap,
    clusterBytes: sectorBytes << clusterShift,
    clusterCount,
    rootCluster,
  };
}

/** The main boot region, or the backup one where the main one's check sum does not agree. */
export async function findGeometry(
  source: PatientSource,
  start: number,
  length: number,
): Promise<{ geometry: Geometry; from: "main" | "backup" | "main, broken" } | null> {
  let broken: Geometry | null = null;
  // The backup's place counts in sectors, whose size only the boot sector tells.
  for (const sectorBytes of [0, 512, 4096]) {
    const at = start + BOOT_REGION_SECTORS * sectorBytes;
    if (at + 512 > Math.min(source.size, start + length)) continue;
    const geometry = readGeometry(await source.read(at, 512), start, length);
    if (!geometry || (sectorBytes !== 0 && geometry.sectorBytes !== sectorBytes)) continue;
    const region = (CHECKSUM_SECTOR + 1) * geometry.sectorBytes;
    if (at + region > source.size) continue;
    const bytes = await source.read(at, region);
    const sums = bytes.subarray(CHECKSUM_SECTOR * geometry.sectorBytes);
    const stored = (sums[0] | (sums[1] << 8) | (sums[2] << 16) | (sums[3] << 24)) >>> 0;
    if (bootChecksum(bytes.subarray(0, CHECKSUM_SECTOR * geometry.sectorBytes)) === stored)
      return { geometry, from: sectorBytes === 0 ? "main" : "backup" };
    broken ??= geometry;
  }
  return broken && { geometry: broken, from: "main, broken" };
}
