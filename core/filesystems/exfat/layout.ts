import { latin, layout, raw, u8, u16, u32, u64 } from "../../bytes/layout.ts";

/** exFAT as its maker published it ("exFAT file system specification", revision 1.00), little-endian. Field names are that document's. */

/** §3.1 "Main and Backup Boot Sector". */
export const BootSector = layout(512, {
  FileSystemName: latin(3, 8),
  MustBeZero: raw(11, 53),
  PartitionOffset: u64(64),
  VolumeLength: u64(72),
  FatOffset: u32(80),
  FatLength: u32(84),
  ClusterHeapOffset: u32(88),
  ClusterCount: u32(92),
  FirstClusterOfRootDirectory: u32(96),
  VolumeSerialNumber: u32(100),
  FileSystemRevision: u16(104),
  VolumeFlags: u16(106),
  BytesPerSectorShift: u8(108),
  SectorsPerClusterShift: u8(109),
  NumberOfFats: u8(110),
  PercentInUse: u8(112),
  BootSignature: u16(510),
});
export const FILE_SYSTEM_NAME = "EXFAT   ";
export const BOOT_SIGNATURE = 0xaa55;
/** §3: sectors of a boot region; the backup follows the main one. The last sector holds the check sum of the others. */
export const BOOT_REGION_SECTORS = 12;
export const CHECKSUM_SECTOR = 11;

/** §6.2 entry types. Bit 7: in use. */
export const Type = { end: 0x00, bitmap: 0x81, upCase: 0x82, label: 0x83, file: 0x85, stream: 0xc0, name: 0xc1 } as const;
export const IN_USE = 0x80;
export const ENTRY_BYTES = 32;

/** §7.1 "Allocation Bitmap" and §7.2 "Up-case Table" entries. */
export const TableEntry = layout(32, {
  EntryType: u8(0),
  BitmapFlags: u8(1),
  TableChecksum: u32(4),
  FirstCluster: u32(20),
  DataLength: u64(24),
});
/** §7.3 "Volume Label". */
export const LabelEntry = layout(32, { EntryType: u8(0), CharacterCount: u8(1), VolumeLabel: raw(2, 22) });
/** §7.4 "File". */
export const FileEntry = layout(32, {
  EntryType: u8(0),
  SecondaryCount: u8(1),
  SetChecksum: u16(2),
  FileAttributes: u16(4),
  CreateTimestamp: u32(8),
  LastModifiedTimestamp: u32(12),
  Create10msIncrement: u8(20),
  LastModified10msIncrement: u8(21),
  CreateUtcOffset: u8(22),
  LastModifiedUtcOffset: u8(23),
});
export const ATTRIBUTE_DIRECTORY = 0x10;
/** §7.6 "Stream Extension". */
export const StreamEntry = layout(32, {
  EntryType: u8(0),
  GeneralSecondaryFlags: u8(1),
  NameLength: u8(3),
  NameHash: u16(4),
  ValidDataLength: u64(8),
  FirstCluster: u32(20),
  DataLength: u64(24),
});
export const SecondaryFlag = { allocationPossible: 0x1, noFatChain: 0x2 } as const;
/** §7.7 "File Name": 15 UTF-16 units. */
export const NameEntry = layout(32, { EntryType: u8(0), GeneralSecondaryFlags: u8(1), FileName: raw(2, 30) });
