import { latin, layout, raw, u8, u16be, u32be } from "../../bytes/layout.ts";

/**
 * "Database File Format" of SQLite (https://www.sqlite.org/fileformat2.html). Big-endian throughout; offsets within a
 * page count from its first byte; page numbers begin at 1.
 */

/** §1.3: the first 100 bytes of page 1. */
export const DatabaseHeader = layout(100, {
  magic: latin(0, 16),
  pageSize: u16be(16),
  writeVersion: u8(18),
  readVersion: u8(19),
  reservedBytes: u8(20),
  changeCounter: u32be(24),
  pageCount: u32be(28),
  firstTrunk: u32be(32),
  freelistPages: u32be(36),
  schemaCookie: u32be(40),
  schemaFormat: u32be(44),
  largestRoot: u32be(52),
  textEncoding: u32be(56),
  incrementalVacuum: u32be(64),
  versionValidFor: u32be(92),
});
export const MAGIC = "SQLite format 3\0";
/** A stored page size of 1 means 65,536. */
export const pageSizeOf = (stored: number): number => (stored === 1 ? 65_536 : stored);
export const isPageSize = (bytes: number): boolean => bytes >= 512 && bytes <= 65_536 && (bytes & (bytes - 1)) === 0;

/** §1.6: header of a b-tree page. Interior pages have the right-most child behind it. */
export const PageHeader = layout(12, {
  type: u8(0),
  firstFreeblock: u16be(1),
  cells: u16be(3),
  contentStart: u16be(5),
  fragmentedBytes: u8(7),
  rightChild: u32be(8),
});
export const PageType = { indexInterior: 2, tableInterior: 5, indexLeaf: 10, tableLeaf: 13 } as const;
export const isBtreeType = (type: number): boolean => type === 2 || type === 5 || type === 10 || type === 13;

/** §1.6: a freed cell: the next one of the page, and how long this one is with these four bytes. */
export const Freeblock = layout(4, { next: u16be(0), bytes: u16be(2) });

/** §1.5: a trunk of the freelist, then as many leaf page numbers. */
export const Trunk = layout(8, { next: u32be(0), leaves: u32be(4) });

/** §1.8: what a page belongs to; one entry for each page behind the pointer map page. */
export const PointerMapEntry = layout(5, { kind: u8(0), parent: u32be(1) });

/** §4.1: header of a write-ahead log. The lowest bit of the magic says in which byte order its check sums count. */
export const WalHeader = layout(32, {
  magic: u32be(0),
  version: u32be(4),
  pageSize: u32be(8),
  checkpoint: u32be(12),
  salt: raw(16, 8),
  sum1: u32be(24),
  sum2: u32be(28),
});
export const WAL_MAGIC = 0x377f_0682;
/** §4.1: before each page of the log. `pagesAfter`: database size where a transaction ends, else 0. */
export const FrameHeader = layout(24, { page: u32be(0), pagesAfter: u32be(4), salt: raw(8, 8), sum1: u32be(16), sum2: u32be(20) });

/** §3: header of a rollback journal; fills a whole sector. */
export const JournalHeader = layout(28, {
  magic: latin(0, 8),
  records: u32be(8),
  nonce: u32be(12),
  pagesBefore: u32be(16),
  sectorSize: u32be(20),
  pageSize: u32be(24),
});
export const JOURNAL_MAGIC = "\xd9\xd5\x05\xf9\x20\xa1\x63\xd7";
