import { latin, layout, u16, u32, u64 } from "../bytes/layout.ts";

/** Structures of a ZIP archive ("APPNOTE.TXT" 6.3.10). Numbers are little-endian. */

/** Local file header, §4.3.7. Behind it stand name, extra field and content. */
export const LocalHeader = layout(30, {
  signature: latin(0, 4),
  version: u16(4),
  flags: u16(6),
  method: u16(8),
  time: u16(10),
  date: u16(12),
  crc32: u32(14),
  compressedSize: u32(18),
  uncompressedSize: u32(22),
  nameLength: u16(26),
  extraLength: u16(28),
});
export const LOCAL = "PK\x03\x04";

/** Central directory file header, §4.3.12. Behind it stand name, extra field and comment. */
export const CentralHeader = layout(46, {
  signature: latin(0, 4),
  madeBy: u16(4),
  version: u16(6),
  flags: u16(8),
  method: u16(10),
  time: u16(12),
  date: u16(14),
  crc32: u32(16),
  compressedSize: u32(20),
  uncompressedSize: u32(24),
  nameLength: u16(28),
  extraLength: u16(30),
  commentLength: u16(32),
  disk: u16(34),
  internal: u16(36),
  external: u32(38),
  localHeader: u32(42),
});
export const CENTRAL = "PK\x01\x02";

/** Data descriptor with its signature, §4.3.9. */
export const Descriptor = layout(16, { signature: latin(0, 4), crc32: u32(4), compressedSize: u32(8), uncompressedSize: u32(12) });
export const DESCRIPTOR = "PK\x07\x08";

/** End of central directory record, §4.3.16. Behind it stands a comment. */
export const EndRecord = layout(22, {
  signature: latin(0, 4),
  disk: u16(4),
  firstDisk: u16(6),
  entriesHere: u16(8),
  entries: u16(10),
  directorySize: u32(12),
  directoryOffset: u32(16),
  commentLength: u16(20),
});
export const END = "PK\x05\x06";

/** Zip64 end of central directory record, §4.3.14: the part of it that has a fixed place. */
export const End64 = layout(56, {
  signature: latin(0, 4),
  recordSize: u64(4),
  entries: u64(32),
  directorySize: u64(40),
  directoryOffset: u64(48),
});
export const END_64 = "PK\x06\x06";
/** Zip64 end of central directory locator, §4.3.15: it stands before the end record. */
export const Locator64 = layout(20, { signature: latin(0, 4), end64Offset: u64(8) });
export const LOCATOR_64 = "PK\x06\x07";

/** Extra fields, §4.5: a kind, a length, and so many bytes. */
export const ExtraField = layout(4, { kind: u16(0), bytes: u16(2) });
export const Extra = {
  /** Sizes and place as 64 bits where 32 are all ones, §4.5.3. */
  zip64: 0x0001,
  /** Seconds since 1970 in UTC (Info-ZIP "extrafld.txt", "UT"). */
  timestamp: 0x5455,
} as const;
export const ONES_32 = 0xffff_ffff;

/** General purpose bit flag, §4.4.4. */
export const Flag = { encrypted: 1, descriptor: 8, utf8: 0x800 } as const;
/** Compression methods, §4.4.5. */
export const Method = { stored: 0, deflated: 8 } as const;
/** A comment has at most so many bytes, and behind it ends the archive. */
export const MOST_BEHIND = EndRecord.size + 65_535;
