import { type Extent, sliceSource } from "../../bytes/extents.ts";
import type { ByteSource } from "../../bytes/source.ts";
import { BOOT_SIGNATURE, BootSector, BootSector16, DirEntry, FAT12_BELOW } from "./layout.ts";

/** Where the parts of a FAT volume lie. Offsets are absolute bytes on the source. */
export interface Geometry {
  readonly start: number;
  readonly length: number;
  readonly sectorBytes: number;
  readonly clusterBytes: number;
  readonly fatOffsets: readonly number[];
  readonly fatBytes: number;
  readonly dataOffset: number;
  /** Clusters are numbered 2 to clusterCount + 1. */
  readonly clusterCount: number;
  readonly type: "FAT12" | "FAT16" | "FAT32";
  /** FAT32: the root folder's first cluster. The others keep the root's list before their data: where. */
  readonly root: { readonly cluster: number } | { readonly extent: Extent };
  readonly label: string | null;
}

/** More clusters than this would need more memory for the table than a scan may take (4 bytes each). */
const MAX_CLUSTERS = 1 << 25;
/** "BPB_Media": the legal values. */
const mediaBytes = new Set([0xf0, 0xf8, 0xf9, 0xfa, 0xfb, 0xfc, 0xfd, 0xfe, 0xff]);
/** Bits of an entry of the allocation table. */
export const ENTRY_BITS = { FAT12: 12, FAT16: 16, FAT32: 32 } as const;
const isPowerOfTwo = (value: number): boolean => value > 0 && (value & (value - 1)) === 0;

/** @returns null where the sector cannot be a FAT boot sector of a volume of `length` bytes at `start` */
function readGeometry(sector: Uint8Array, start: number, length: number): Geometry | null {
  if (sector.length < BootSector.size || BootSector.signature(sector, 0) !== BOOT_SIGNATURE) return null;
  const sectorBytes = BootSector.bytesPerSector(sector, 0);
  const sectorsPerCluster = BootSector.sectorsPerCluster(sector, 0);
  const reserved = BootSector.reservedSectors(sector, 0);
  const fatCount = BootSector.fatCount(sector, 0);
  const fatSize16 = BootSector.fatSize16(sector, 0);
  const rootEntries = BootSector.rootEntries(sector, 0);
  const totalSectors = BootSector.totalSectors16(sector, 0) || BootSector.totalSectors32(sector, 0);
  if (!isPowerOfTwo(sectorBytes) || sectorBytes < 512 || sectorBytes > 4096 || !isPowerOfTwo(sectorsPerCluster)) return null;
  // FAT32 is told by a 16-bit table size of 0: drivers decide so, and small volumes exist.
  const isFat32 = fatSize16 === 0;
  if (isFat32 !== (rootEntries === 0)) return null;
  const fatSize = isFat32 ? BootSector.fatSize32(sector, 0) : fatSize16;
  if (
    reserved === 0 ||
    fatCount === 0 ||
    fatCount > 4 ||
    fatSize === 0 ||
    totalSectors === 0 ||
    !mediaBytes.has(BootSector.media(sector, 0))
  )
    return null;
  const rootAt = (reserved + fatCount * fatSize) * sectorBytes;
  const rootBytes = Math.ceil((rootEntries * DirEntry.size) / sectorBytes) * sectorBytes;
  const dataOffset = rootAt + rootBytes;
  const clusterBytes = sectorBytes * sectorsPerCluster;
  const counted = Math.floor((totalSectors * sectorBytes - dataOffset) / clusterBytes);
  const type = isFat32 ? "FAT32" : counted < FAT12_BELOW ? "FAT12" : "FAT16";
  const clusterCount = Math.min(counted, Math.floor((fatSize * sectorBytes * 8) / ENTRY_BITS[type]) - 2);
  const rootCluster = BootSector.rootCluster(sector, 0);
  if (dataOffset >= length || clusterCount < 1 || clusterCount > MAX_CLUSTERS || (isFat32 && rootCluster < 2)) return null;
  const label = (isFat32 ? BootSector : BootSector16).volumeLabel(sector, 0).replaceAll("\0", " ").trim();
  return {
    start,
    length: Math.min(length, totalSectors * sectorBytes),
    sectorBytes,
    clusterBytes,
    fatOffsets: Array.from({ length: fatCount }, (_, index) => start + (reserved + index * fatSize) * sectorBytes),
    fatBytes: fatSize * sectorBytes,
    dataOffset: start + dataOffset,
    clusterCount,
    type,
    root: isFat32 ? { cluster: rootCluster } : { extent: { offset: start + rootAt, length: rootBytes } },
    label: label && label !== "NO NAME" ? label : null,
  };
}

/** Sector of the copy of the boot sector: the document's fixed place, where the first one is lost. */
const BACKUP_SECTOR = 6;

/** The boot sector of a volume that begins at `start`, or its copy. Null: no FAT volume. */
export async function findGeometry(
  source: ByteSource,
  start: number,
  length: number,
): Promise<{ geometry: Geometry; fromBackup: boolean } | null> {
  const volume = sliceSource(source, start, length);
  for (const sector of [0, BACKUP_SECTOR]) {
    const at = sector * BootSector.size;
    if (at + BootSector.size > volume.size) continue;
    const geometry = readGeometry(await volume.read(at, BootSector.size), start, length);
    if (geometry) return { geometry, fromBackup: sector > 0 };
  }
  return null;
}
