import { layout, raw, u8, u16, u32, u64 } from "../../bytes/layout.ts";

/**
 * F2FS as the Linux kernel declares it in include/linux/f2fs_fs.h and documents it in Documentation/filesystems/f2fs.rst,
 * little-endian. Field names are the header's.
 */

export const BLOCK_BYTES = 4096;
export const F2FS_MAGIC = 0xf2f5_2010;
export const SUPER_OFFSET = 1024;

/** `struct f2fs_super_block`. */
export const SuperBlock = layout(3072, {
  magic: u32(0),
  major_ver: u16(4),
  log_sectorsize: u32(8),
  log_blocksize: u32(16),
  log_blocks_per_seg: u32(20),
  segs_per_sec: u32(24),
  checksum_offset: u32(32),
  block_count: u64(36),
  segment_count: u32(48),
  segment_count_ckpt: u32(52),
  segment_count_sit: u32(56),
  segment_count_nat: u32(60),
  segment_count_ssa: u32(64),
  segment_count_main: u32(68),
  segment0_blkaddr: u32(72),
  cp_blkaddr: u32(76),
  sit_blkaddr: u32(80),
  nat_blkaddr: u32(84),
  ssa_blkaddr: u32(88),
  main_blkaddr: u32(92),
  root_ino: u32(96),
  node_ino: u32(100),
  meta_ino: u32(104),
  uuid: raw(108, 16),
  volume_name: raw(124, 1024),
  cp_payload: u32(1664),
  feature: u32(2180),
  crc: u32(3068),
});
export const Feature = {
  encrypt: 0x1,
  extra_attr: 0x8,
  inode_chksum: 0x20,
  flexible_inline_xattr: 0x40,
  sb_chksum: 0x800,
  compression: 0x2000,
} as const;

/** `struct f2fs_checkpoint`. */
export const Checkpoint = layout(192, {
  checkpoint_ver: u64(0),
  user_block_count: u64(8),
  valid_block_count: u64(16),
  cur_node_segno: raw(36, 32),
  cur_node_blkoff: raw(68, 16),
  cur_data_segno: raw(84, 32),
  cur_data_blkoff: raw(116, 16),
  ckpt_flags: u32(132),
  cp_pack_total_block_count: u32(136),
  cp_pack_start_sum: u32(140),
  valid_inode_count: u32(148),
  sit_ver_bitmap_bytesize: u32(156),
  nat_ver_bitmap_bytesize: u32(160),
  checksum_offset: u32(164),
  alloc_type: raw(176, 16),
});
export const CheckpointFlag = { umount: 0x1, orphan_present: 0x2, compact_sum: 0x4, crc_recovery: 0x40, large_nat_bitmap: 0x400 } as const;

/** `struct f2fs_nat_entry`, 455 in a block. */
export const NatEntry = layout(9, { version: u8(0), ino: u32(1), block_addr: u32(5) });
export const NAT_PER_BLOCK = 455;
/** `struct nat_journal_entry`. */
export const NatJournalEntry = layout(13, { nid: u32(0), version: u8(4), ino: u32(5), block_addr: u32(9) });

/** `struct f2fs_sit_entry`, 55 in a block: how many blocks of a segment are in use, and which. */
export const SitEntry = layout(74, { vblocks: u16(0), valid_map: raw(2, 64), mtime: u64(66) });
export const SIT_PER_BLOCK = 55;
export const SitJournalEntry = layout(78, { segno: u32(0), vblocks: u16(4), valid_map: raw(6, 64), mtime: u64(70) });

/** `struct f2fs_summary`: to which node, and which place in it, a block belongs. 512 in a `f2fs_summary_block`. */
export const Summary = layout(7, { nid: u32(0), version: u8(4), ofs_in_node: u16(5) });
export const SUMMARY_COUNT = 512;
export const JOURNAL_AT = Summary.size * SUMMARY_COUNT;
/** Bytes of a journal in a summary block, its count first. */
export const JOURNAL_BYTES = 507;
export const SUMMARY_FOOTER_AT = BLOCK_BYTES - 5;
export const SummaryType = { data: 0, node: 1 } as const;

/** `struct node_footer`, the last 24 bytes of each node block. */
export const NODE_FOOTER_AT = 4072;
export const NodeFooter = layout(24, { nid: u32(0), ino: u32(4), flag: u32(8), cp_ver: u64(12), next_blkaddr: u32(20) });
export const FOOTER_FSYNC = 0x2;
export const FOOTER_OFFSET_SHIFT = 3;

/** `struct f2fs_inode`. */
export const Inode = layout(NODE_FOOTER_AT, {
  i_mode: u16(0),
  i_advise: u8(2),
  i_inline: u8(3),
  i_links: u32(12),
  i_size: u64(16),
  i_blocks: u64(24),
  i_ctime: u64(40),
  i_mtime: u64(48),
  i_ctime_nsec: u32(60),
  i_mtime_nsec: u32(64),
  i_generation: u32(68),
  i_xattr_nid: u32(76),
  i_flags: u32(80),
  i_pino: u32(84),
  i_namelen: u32(88),
  i_name: raw(92, 255),
  i_addr: raw(360, 3692),
  i_nid: raw(4052, 20),
});
/** The head of `i_addr` where an inode has extra attributes. */
export const ExtraAttributes = layout(24, {
  i_extra_isize: u16(0),
  i_inline_xattr_size: u16(2),
  i_projid: u32(4),
  i_inode_checksum: u32(8),
  i_crtime: u64(12),
});
export const ADDRS_PER_INODE = 923;
export const ADDRS_PER_BLOCK = 1018;
export const NIDS_PER_BLOCK = 1018;
export const DEFAULT_INLINE_XATTR_ADDRS = 50;
export const InlineFlag = { xattr: 0x1, data: 0x2, dentry: 0x4, extra_attr: 0x20 } as const;
export const Advise = { lost_pino: 0x2, encrypt: 0x4, enc_name: 0x8 } as const;
export const FLAG_COMPRESSED = 0x4;
export const Mode = { mask: 0xf000, directory: 0x4000, regular: 0x8000 } as const;

/** Addresses that are none. */
export const Address = { null: 0, new: 0xffff_ffff, compressed: 0xffff_fffe } as const;
export const word = u32(0);
export const half = u16(0);

/** `struct f2fs_dir_entry`; in a block: a bitmap, entries, then names in slots of eight bytes. */
export const DirEntry = layout(11, { hash_code: u32(0), ino: u32(4), name_len: u16(8), file_type: u8(10) });
export const DENTRIES_PER_BLOCK = 214;
export const SLOT_BYTES = 8;
export const FileType = { unknown: 0, regular: 1, directory: 2 } as const;
