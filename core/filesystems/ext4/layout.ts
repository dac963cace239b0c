import { layout, raw, u8, u16, u32 } from "../../bytes/layout.ts";

/**
 * ext2/3/4 as the Linux kernel documents it in Documentation/filesystems/ext4 ("Data Structures and Algorithms"),
 * little-endian. Field names are that document's.
 */

/** "Super Block". */
export const SuperBlock = layout(1024, {
  s_inodes_count: u32(0x0),
  s_blocks_count_lo: u32(0x4),
  s_free_blocks_count_lo: u32(0xc),
  s_first_data_block: u32(0x14),
  s_log_block_size: u32(0x18),
  s_log_cluster_size: u32(0x1c),
  s_blocks_per_group: u32(0x20),
  s_inodes_per_group: u32(0x28),
  s_magic: u16(0x38),
  s_state: u16(0x3a),
  s_rev_level: u32(0x4c),
  s_first_ino: u32(0x54),
  s_inode_size: u16(0x58),
  s_block_group_nr: u16(0x5a),
  s_feature_compat: u32(0x5c),
  s_feature_incompat: u32(0x60),
  s_feature_ro_compat: u32(0x64),
  s_uuid: raw(0x68, 16),
  s_volume_name: raw(0x78, 16),
  s_reserved_gdt_blocks: u16(0xce),
  s_journal_inum: u32(0xe0),
  s_last_orphan: u32(0xe8),
  s_desc_size: u16(0xfe),
  s_first_meta_bg: u32(0x104),
  s_jnl_blocks: raw(0x10c, 68),
  s_blocks_count_hi: u32(0x150),
  s_free_blocks_count_hi: u32(0x158),
  s_log_groups_per_flex: u8(0x174),
  s_checksum_type: u8(0x175),
  s_backup_bgs: raw(0x24c, 8),
  s_checksum_seed: u32(0x270),
  s_checksum: u32(0x3fc),
});
export const SUPER_SIGNATURE = 0xef53;
export const SUPER_OFFSET = 1024;

export const Compat = { sparse_super2: 0x200, dir_index: 0x20 } as const;
export const Incompat = {
  recover: 0x4,
  journal_dev: 0x8,
  meta_bg: 0x10,
  extents: 0x40,
  bit64: 0x80,
  csum_seed: 0x2000,
  inline_data: 0x8000,
  encrypt: 0x10000,
  casefold: 0x20000,
} as const;
export const RoCompat = { sparse_super: 0x1, gdt_csum: 0x10, bigalloc: 0x200, metadata_csum: 0x400 } as const;

/** "Block Group Descriptors"; the second half only where descriptors are 64 bytes long. */
export const GroupDescriptor = layout(64, {
  bg_block_bitmap_lo: u32(0x0),
  bg_inode_bitmap_lo: u32(0x4),
  bg_inode_table_lo: u32(0x8),
  bg_free_blocks_count_lo: u16(0xc),
  bg_flags: u16(0x12),
  bg_itable_unused_lo: u16(0x1c),
  bg_checksum: u16(0x1e),
  bg_block_bitmap_hi: u32(0x20),
  bg_inode_bitmap_hi: u32(0x24),
  bg_inode_table_hi: u32(0x28),
  bg_itable_unused_hi: u16(0x32),
});
export const GroupFlag = { inode_uninit: 0x1, block_uninit: 0x2 } as const;

/** "Inode Table". */
export const Inode = layout(160, {
  i_mode: u16(0x0),
  i_uid: u16(0x2),
  i_size_lo: u32(0x4),
  i_atime: u32(0x8),
  i_ctime: u32(0xc),
  i_mtime: u32(0x10),
  i_dtime: u32(0x14),
  i_links_count: u16(0x1a),
  i_blocks_lo: u32(0x1c),
  i_flags: u32(0x20),
  i_block: raw(0x28, 60),
  i_generation: u32(0x64),
  i_size_high: u32(0x6c),
  i_checksum_lo: u16(0x7c),
  i_extra_isize: u16(0x80),
  i_checksum_hi: u16(0x82),
  i_mtime_extra: u32(0x88),
  i_crtime: u32(0x90),
});
export const GOOD_OLD_INODE_SIZE = 128;
export const InodeFlag = {
  compressed: 0x4,
  encrypt: 0x800,
  index: 0x1000,
  extents: 0x80000,
  verity: 0x100000,
  ea_inode: 0x200000,
  inline_data: 0x10000000,
} as const;
export const Mode = { mask: 0xf000, directory: 0x4000, regular: 0x8000 } as const;

/** "Extent Tree". */
export const ExtentHeader = layout(12, { eh_magic: u16(0), eh_entries: u16(2), eh_max: u16(4), eh_depth: u16(6), eh_generation: u32(8) });
export const EXTENT_MAGIC = 0xf30a;
export const ExtentIndex = layout(12, { ei_block: u32(0), ei_leaf_lo: u32(4), ei_leaf_hi: u16(8) });
export const ExtentLeaf = layout(12, { ee_block: u32(0), ee_len: u16(4), ee_start_hi: u16(6), ee_start_lo: u32(8) });
/** Longer than this, an extent is allocated but not written: it reads as zeros. */
export const INIT_MAX_LEN = 32768;

/** "Linear (Classic) Directories": `ext4_dir_entry_2`, the name follows. */
export const DirEntry = layout(8, { inode: u32(0), rec_len: u16(4), name_len: u8(6), file_type: u8(7) });
export const FileType = { unknown: 0, regular: 1, directory: 2, checksum: 0xde } as const;

/** "Extended Attributes": the header in an inode, then entries. */
export const XATTR_MAGIC = 0xea02_0000;
export const XattrEntry = layout(16, {
  e_name_len: u8(0),
  e_name_index: u8(1),
  e_value_offs: u16(2),
  e_value_inum: u32(4),
  e_value_size: u32(8),
  e_hash: u32(12),
});
/** Name index 7 is "system.": inline data beyond the first 60 bytes is the attribute "system.data". */
export const XATTR_SYSTEM = 7;
