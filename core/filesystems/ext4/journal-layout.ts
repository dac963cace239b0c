import { layout, raw, u8, u16be, u32be } from "../../bytes/layout.ts";

/** jbd2, the journal of ext3/4: "Journal (jbd2)" of the kernel's document. Big-endian. */

export const JOURNAL_MAGIC = 0xc03b_3998;
export const JournalBlock = { descriptor: 1, commit: 2, superV1: 3, superV2: 4, revoke: 5 } as const;

/** "Block Header": begins every block of the journal that is not data. */
export const JournalHeader = layout(12, { h_magic: u32be(0), h_blocktype: u32be(4), h_sequence: u32be(8) });

/** "Super Block" of the journal. */
export const JournalSuper = layout(1024, {
  h_magic: u32be(0),
  h_blocktype: u32be(4),
  s_blocksize: u32be(12),
  s_maxlen: u32be(16),
  s_first: u32be(20),
  s_sequence: u32be(24),
  s_start: u32be(28),
  s_errno: u32be(32),
  s_feature_compat: u32be(36),
  s_feature_incompat: u32be(40),
  s_uuid: raw(48, 16),
  s_checksum_type: u8(80),
  s_num_fc_blks: u32be(84),
  s_checksum: u32be(252),
});
export const JournalIncompat = { revoke: 1, bit64: 2, async_commit: 4, csum_v2: 8, csum_v3: 0x10, fast_commit: 0x20 } as const;

/** "Descriptor Block": one tag for each data block that follows. */
export const Tag3 = layout(16, { t_blocknr: u32be(0), t_flags: u32be(4), t_blocknr_high: u32be(8), t_checksum: u32be(12) });
export const Tag = layout(12, { t_blocknr: u32be(0), t_checksum: u16be(4), t_flags: u16be(6), t_blocknr_high: u32be(8) });
export const TagFlag = { escape: 1, sameUuid: 2, deleted: 4, last: 8 } as const;
export const UUID_BYTES = 16;
/** Check sum at the end of descriptor and revoke blocks of checksummed journals. */
export const BLOCK_TAIL = 4;

/** "Revocation Block": `r_count` bytes of it are used, block numbers follow. */
export const Revoke = layout(16, { r_count: u32be(12) });
/** "Commit Block". */
export const Commit = layout(60, { h_chksum_type: u8(12), h_chksum: u32be(16), h_commit_sec: u32be(52) });
