import type { PatientSource } from "../../bytes/patient-source.ts";
import type { Trouble } from "../../bytes/trouble.ts";
import { descriptorHolds, superBlockHolds, volumeSeed } from "./checks.ts";
import { Compat, GroupDescriptor, GroupFlag, Incompat, RoCompat, SUPER_OFFSET, SUPER_SIGNATURE, SuperBlock } from "./layout.ts";

export interface Group {
  readonly blockBitmap: number;
  readonly inodeBitmap: number;
  readonly inodeTable: number;
  readonly flags: number;
  /** Inodes at the end of this group's table that were never used. */
  readonly unusedInodes: number;
}

/** Where the parts of an ext volume lie. Block numbers count from the volume's start. */
export interface Geometry {
  /** Absolute byte of block 0. */
  readonly start: number;
  readonly blockBytes: number;
  readonly blockCount: number;
  readonly firstDataBlock: number;
  readonly blocksPerGroup: number;
  /** Blocks that one bit of a bitmap stands for: 1 but for `bigalloc`. */
  readonly clusterBlocks: number;
  readonly inodesPerGroup: number;
  readonly inodeCount: number;
  /** Those below are the file system's own. */
  readonly firstInode: number;
  readonly inodeBytes: number;
  readonly groupCount: number;
  readonly descriptorBytes: number;
  readonly incompat: number;
  readonly roCompat: number;
  readonly compat: number;
  readonly reservedDescriptorBlocks: number;
  readonly firstMetaGroup: number;
  readonly journalInode: number;
  /** A copy of the journal's inode block map, kept in the superblock. */
  readonly journalBlocks: Uint8Array;
  readonly lastOrphan: number;
  readonly cleanly: boolean;
  readonly uuid: Uint8Array;
  readonly label: string | null;
  /** Seed of the check sums, where the volume has them. */
  readonly seed: number | null;
}

const MAX_GROUPS = 1 << 20;

/** Reads a superblock's bytes. Null: it cannot be one of a volume that begins at `start` of a source of `size` bytes. */
export function readGeometry(bytes: Uint8Array, start: number): Geometry | null {
  if (SuperBlock.s_magic(bytes, 0) !== SUPER_SIGNATURE) return null;
  const logBlock = SuperBlock.s_log_block_size(bytes, 0);
  const rev = SuperBlock.s_rev_level(bytes, 0);
  if (logBlock > 6 || rev > 1) return null;
  const blockBytes = 1024 << logBlock;
  const incompat = rev > 0 ? SuperBlock.s_feature_incompat(bytes, 0) : 0;
  const roCompat = rev > 0 ? SuperBlock.s_feature_ro_compat(bytes, 0) : 0;
  const long = (incompat & Incompat.bit64) !== 0;
  const blockCount = SuperBlock.s_blocks_count_lo(bytes, 0) + (long ? SuperBlock.s_blocks_count_hi(bytes, 0) * 2 ** 32 : 0);
  const blocksPerGroup = SuperBlock.s_blocks_per_group(bytes, 0);
  const inodesPerGroup = SuperBlock.s_inodes_per_group(bytes, 0);
  const inodeBytes = rev > 0 ? SuperBlock.s_inode_size(bytes, 0) : 128;
  const firstDataBlock = SuperBlock.s_first_data_block(bytes, 0);
  const descriptorBytes = long ? SuperBlock.s_desc_size(bytes, 0) : 32;
  if ((incompat & Incompat.journal_dev) !== 0 || blockCount === 0 || firstDataBlock > 1) return null;
  const clusterBlocks =
    (roCompat & RoCompat.bigalloc) !== 0 ? 2 ** Math.min(16, Math.max(0, SuperBlock.s_log_cluster_size(bytes, 0) - logBlock)) : 1;
  if (blocksPerGroup === 0 || blocksPerGroup > blockBytes * 8 * clusterBlocks || inodesPerGroup === 0 || inodesPerGroup > blockBytes * 8)
    return null;
  if (inodeBytes < 128 || inodeBytes > blockBytes || (inodeBytes & (inodeBytes - 1)) !== 0) return null;
  if (descriptorBytes < 32 || descriptorBytes > 1024 || (descriptorBytes & (descriptorBytes - 1)) !== 0) return null;
  const groupCount = Math.ceil((blockCount - firstDataBlock) / blocksPerGroup);
  if (groupCount < 1 || groupCount > MAX_GROUPS) return null;
  const uuid = SuperBlock.s_uuid(bytes, 0).slice();
  const summed = (roCompat & RoCompat.metadata_csum) !== 0;
  const seed = (incompat & Incompat.csum_seed) !== 0 ? SuperBlock.s_checksum_seed(bytes, 0) : volumeSeed(uuid);
  const name = SuperBlock.s_volume_name(bytes, 0);
  const label = new TextDecoder().decode(name.indexOf(0) < 0 ? name : name.subarray(0, name.indexOf(0))).trim();
  return {
    start,
    blockBytes,
    blockCount,
    firstDataBlock,
    blocksPerGroup,
    clusterBlocks,
    inodesPerGroup,
    inodeCount: Math.min(SuperBlock.s_inodes_count(bytes, 0), groupCount * inodesPerGroup),
    firstInode: (rev > 0 && SuperBlock.s_first_ino(bytes, 0)) || 11,
    inodeBytes,
    groupCount,
    descriptorBytes,
    incompat,
    roCompat,
    compat: rev > 0 ? SuperBlock.s_feature_compat(bytes, 0) : 0,
    reservedDescriptorBlocks: SuperBlock.s_reserved_gdt_blocks(bytes, 0),
    firstMetaGroup: SuperBlock.s_first_meta_bg(bytes, 0),
    journalInode: SuperBlock.s_journal_inum(bytes, 0),
    journalBlocks: SuperBlock.s_jnl_blocks(bytes, 0).slice(),
    lastOrphan: SuperBlock.s_last_orphan(bytes, 0),
    cleanly: (incompat & Incompat.recover) === 0,
    uuid,
    label: label || null,
    seed: summed ? seed : null,
  };
}

/** Block sizes and the groups that keep copies of the superblock, for a first one that is lost. */
const BLOCK_SIZES = [4096, 1024, 2048];
const BACKUP_GROUPS = [1, 3, 5, 7, 9, 25, 27, 49];

/** The superblock of a volume that begins at `start`, or one of its copies. */
export async function findGeometry(
  source: PatientSource,
  start: number,
  length: number,
): Promise<{ geometry: Geometry; fromGroup: number } | null> {
  const at = async (offset: number) =>
    offset + SuperBlock.size <= length && start + offset + SuperBlock.size <= source.size
      ? source.read(start + offset, SuperBlock.size)
      : null;
  const first = await at(SUPER_OFFSET);
  const primary = first && readGeometry(first, start);
  const sound = first && primary && (primary.seed === null || superBlockHolds(first));
  if (sound) return { geometry: primary, fromGroup: 0 };
  for (const blockBytes of BLOCK_SIZES)
    for (const group of BACKUP_GROUPS) {
      const copy = await at((group * blockBytes * 8 + (blockBytes === 1024 ? 1 : 0)) * blockBytes);
      const geometry = copy && readGeometry(copy, start);
      if (!geometry || geometry.blockBytes !== blockBytes || SuperBlock.s_block_group_nr(copy, 0) !== group) continue;
      if (geometry.blocksPerGroup !== blockBytes * 8) continue;
      if (geometry.seed === null || superBlockHolds(copy)) return { geometry, fromGroup: group };
    }
  return primary ? { geometry: primary, fromGroup: 0 } : null;
}

const isPowerOf = (value: number, base: number): boolean => {
  let power = base;
  while (power < value) power *= base;
  return power === value;
};

/** Does this group keep a copy of superblock and descriptors? ("Layout", sparse_super) */
function hasSuper(geometry: Geometry, group: number): boolean {
  if (group === 0) return true;
  if ((geometry.compat & Compat.sparse_super2) !== 0) return group === geometry.groupCount - 1;
  if ((geometry.roCompat & RoCompat.sparse_super) === 0) return true;
  return group === 1 || isPowerOf(group, 3) || isPowerOf(group, 5) || isPowerOf(group, 7);
}

export const firstBlockOf = (geometry: Geometry, group: number): number => geometry.firstDataBlock + group * geometry.blocksPerGroup;

/** The block of a group's superblock copy. The first one stands 1,024 bytes in, whatever block the first group begins with: with `bigalloc` that is 0. */
const superBlockIn = (geometry: Geometry, group: number): number =>
  group === 0 ? Math.max(geometry.firstDataBlock, Math.floor(SUPER_OFFSET / geometry.blockBytes)) : firstBlockOf(geometry, group);

/** Blocks at the head of a group for superblock and descriptors, where its bitmap was never written ("Meta Block Groups"). */
export function headBlocks(geometry: Geometry, group: number): number {
  const withSuper = hasSuper(geometry, group) ? 1 : 0;
  const perBlock = geometry.blockBytes / geometry.descriptorBytes;
  const meta = Math.floor(group / perBlock);
  if ((geometry.incompat & Incompat.meta_bg) !== 0 && meta >= geometry.firstMetaGroup) {
    const within = group % perBlock;
    return withSuper + (within === 0 || within === 1 || within === perBlock - 1 ? 1 : 0);
  }
  const all = Math.ceil((geometry.groupCount * geometry.descriptorBytes) / geometry.blockBytes);
  const old = (geometry.incompat & Incompat.meta_bg) !== 0 ? Math.min(all, geometry.firstMetaGroup) : all;
  const before = group === 0 ? superBlockIn(geometry, 0) - firstBlockOf(geometry, 0) : 0;
  return withSuper === 0 ? 0 : before + 1 + old + geometry.reservedDescriptorBlocks;
}

/** Block that holds the descriptor of a group ("Meta Block Groups"); `copyIn`: the group whose copy is read. */
function descriptorPlace(geometry: Geometry, group: number, copyIn: number): { block: number; at: number } {
  const perBlock = geometry.blockBytes / geometry.descriptorBytes;
  const meta = Math.floor(group / perBlock);
  const at = (group % perBlock) * geometry.descriptorBytes;
  if ((geometry.incompat & Incompat.meta_bg) === 0 || meta < geometry.firstMetaGroup)
    return { block: superBlockIn(geometry, copyIn) + 1 + meta, at };
  const home = meta * perBlock + (copyIn === 0 ? 0 : 1);
  return { block: superBlockIn(geometry, home) + (hasSuper(geometry, home) ? 1 : 0), at };
}

/** A group of which nobody knows which inodes were ever used: any may be. */
const inodesUnknown = (group: Group): Group => ({ ...group, flags: group.flags & ~GroupFlag.inode_uninit, unusedInodes: 0 });

/** Reads all group descriptors through `block`; one whose check sum does not agree is read from its copies. */
export async function readGroups(
  geometry: Geometry,
  block: (number: number) => Promise<Uint8Array | null>,
): Promise<{ groups: Group[]; troubles: Trouble[] }> {
  const kind = geometry.seed !== null ? "crc32c" : (geometry.roCompat & RoCompat.gdt_csum) !== 0 ? "crc16" : null;
  const copies = [0, ...BACKUP_GROUPS.filter((group) => group < geometry.groupCount && hasSuper(geometry, group)).slice(0, 2)];
  const sane = (number: number) => number > 0 && number < geometry.blockCount;
  const groups: Group[] = [];
  const troubles: Trouble[] = [];
  for (let group = 0; group < geometry.groupCount; group++) {
    let best: Uint8Array | null = null;
    let isCopy = false;
    for (const copyIn of copies) {
      const place = descriptorPlace(geometry, group, copyIn);
      const bytes = sane(place.block) ? await block(place.block) : null;
      if (!bytes) continue;
      const descriptor = bytes.subarray(place.at, place.at + geometry.descriptorBytes);
      const read = readDescriptor(descriptor, geometry);
      const holds = kind === null || descriptorHolds(kind, geometry.seed ?? 0, geometry.uuid, group, descriptor);
      if (!sane(read.blockBitmap) || !sane(read.inodeTable)) continue;
      if (best && !holds) continue;
      best = descriptor;
      isCopy = copyIn !== 0;
      if (!holds) continue;
      if (copyIn !== 0)
        troubles.push({
          what: `the descriptor of block group ${group} is broken; its copy is used`,
          at: geometry.start + descriptorPlace(geometry, group, 0).block * geometry.blockBytes,
          length: geometry.descriptorBytes,
        });
      break;
    }
    // Copies are written when a volume is made, and not kept up to date: inodes that were unused then are none now.
    if (best) groups.push(isCopy ? inodesUnknown(readDescriptor(best, geometry)) : readDescriptor(best, geometry));
    else {
      groups.push({ blockBitmap: 0, inodeBitmap: 0, inodeTable: 0, flags: GroupFlag.inode_uninit, unusedInodes: geometry.inodesPerGroup });
      troubles.push({ what: `the descriptor of block group ${group} is lost, and with it its inodes`, at: geometry.start, length: 0 });
    }
  }
  return { groups, troubles };
}

function readDescriptor(bytes: Uint8Array, geometry: Geometry): Group {
  const long = geometry.descriptorBytes >= 64;
  const high = (value: number) => (long ? value * 2 ** 32 : 0);
  return {
    blockBitmap: GroupDescriptor.bg_block_bitmap_lo(bytes, 0) + high(GroupDescriptor.bg_block_bitmap_hi(bytes, 0)),
    inodeBitmap: GroupDescriptor.bg_inode_bitmap_lo(bytes, 0) + high(GroupDescriptor.bg_inode_bitmap_hi(bytes, 0)),
    inodeTable: GroupDescriptor.bg_inode_table_lo(bytes, 0) + high(GroupDescriptor.bg_inode_table_hi(bytes, 0)),
    flags: GroupDescriptor.bg_flags(bytes, 0),
    unusedInodes: GroupDescriptor.bg_itable_unused_lo(bytes, 0) + (long ? GroupDescriptor.bg_itable_unused_hi(bytes, 0) * 0x10000 : 0),
  };
}
