import { latin, layout, raw, u8, u16, u32 } from "../../bytes/layout.ts";

/**
 * FAT12, FAT16 and FAT32 as their maker published it in "FAT: General Overview of On-Disk Format" (version 1.03, 2000), little-endian.
 * Field names are that document's, without their prefixes.
 */

/** "Boot Sector and BPB", the fields common to all FAT types and those of FAT32. */
export const BootSector = layout(512, {
  jump: raw(0, 3),
  bytesPerSector: u16(11),
  sectorsPerCluster: u8(13),
  reservedSectors: u16(14),
  fatCount: u8(16),
  rootEntries: u16(17),
  totalSectors16: u16(19),
  media: u8(21),
  fatSize16: u16(22),
  totalSectors32: u32(32),
  fatSize32: u32(36),
  extendedFlags: u16(40),
  version: u16(42),
  rootCluster: u32(44),
  fsInfoSector: u16(48),
  backupBootSector: u16(50),
  volumeLabel: latin(71, 11),
  signature: u16(510),
});
/** "Boot Sector and BPB", the fields of FAT12 and FAT16 that stand where FAT32 has others. */
export const BootSector16 = layout(512, { volumeLabel: latin(43, 11) });
export const BOOT_SIGNATURE = 0xaa55;

/** "FAT Directory Structure": an entry of 32 bytes. */
export const DirEntry = layout(32, {
  name: raw(0, 11),
  attributes: u8(11),
  ntReserved: u8(12),
  createTenths: u8(13),
  createTime: u16(14),
  createDate: u16(16),
  accessDate: u16(18),
  firstClusterHigh: u16(20),
  writeTime: u16(22),
  writeDate: u16(24),
  firstClusterLow: u16(26),
  fileSize: u32(28),
});

/** "FAT Long Directory Entries": 13 UTF-16 units of a name, standing before the short entry, last part first. */
export const LongEntry = layout(32, {
  order: u8(0),
  name1: raw(1, 10),
  attributes: u8(11),
  type: u8(12),
  checksum: u8(13),
  name2: raw(14, 12),
  firstClusterLow: u16(26),
  name3: raw(28, 4),
});

/** First byte of an entry's name. */
export const Mark = { erased: 0xe5, end: 0x00, kanjiE5: 0x05 } as const;

export const Attribute = {
  readOnly: 0x01,
  hidden: 0x02,
  system: 0x04,
  volumeId: 0x08,
  directory: 0x10,
  archive: 0x20,
  longName: 0x0f,
} as const;

/** ORed to the order of a long name's last part. */
export const LAST_LONG_ENTRY = 0x40;
/** Case bits in `ntReserved`: common practice, no source in the 2000 document. */
export const LowerCase = { base: 0x08, extension: 0x10 } as const;

/** FAT32 table entries: the upper four bits are reserved. */
export const FAT_ENTRY_MASK = 0x0fff_ffff;
/** "FAT Type Determination": a volume with fewer clusters than these is FAT12, or FAT16. */
export const FAT12_BELOW = 4085;
