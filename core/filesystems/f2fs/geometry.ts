import type { PatientSource } from "../../bytes/patient-source.ts";
import type { Trouble } from "../../bytes/trouble.ts";
import { checkpointHolds, superBlockHolds, volumeSeed } from "./checks.ts";
import { BLOCK_BYTES, Checkpoint, CheckpointFlag, F2FS_MAGIC, Feature, half, SUPER_OFFSET, SuperBlock, word } from "./layout.ts";

/** Where the areas of an F2FS volume lie; addresses are blocks of 4 KiB from the volume's start. */
export interface Geometry {
  readonly start: number;
  readonly blockCount: number;
  readonly blocksPerSegment: number;
  readonly checkpointAt: number;
  readonly sitAt: number;
  readonly sitSegments: number;
  readonly natAt: number;
  readonly natSegments: number;
  readonly ssaAt: number;
  readonly mainAt: number;
  readonly mainSegments: number;
  readonly rootIno: number;
  readonly payload: number;
  readonly feature: number;
  readonly label: string | null;
  /** Seed of the inodes' check sums, where the volume has them. */
  readonly seed: number | null;
}

/** One of the logs that are being written to. */
export interface Log {
  readonly segment: number;
  readonly next: number;
  /** False: it fills gaps of a segment in use, and the segment's summary is complete. */
  readonly fresh: boolean;
}

/** What a checkpoint pack says. */
export interface Pack {
  readonly version: number;
  readonly at: number;
  readonly flags: number;
  readonly startSummary: number;
  readonly natBitmap: Uint8Array;
  readonly sitBitmap: Uint8Array;
  readonly userBlocks: number;
  readonly validBlocks: number;
  readonly nodeLogs: readonly Log[];
  readonly dataLogs: readonly Log[];
  /** What node footers of this checkpoint bear. */
  readonly low: number;
}

const MAX_SEGMENTS = 1 << 24;

/** Null: these bytes are no superblock of a volume that begins at `start`. */
function readGeometry(bytes: Uint8Array, start: number): Geometry | null {
  if (SuperBlock.magic(bytes, 0) !== F2FS_MAGIC || SuperBlock.log_blocksize(bytes, 0) !== 12) return null;
  const blocksPerSegment = 1 << Math.min(16, SuperBlock.log_blocks_per_seg(bytes, 0));
  const geometry = {
    start,
    blockCount: SuperBlock.block_count(bytes, 0),
    blocksPerSegment,
    checkpointAt: SuperBlock.cp_blkaddr(bytes, 0),
    sitAt: SuperBlock.sit_blkaddr(bytes, 0),
    sitSegments: SuperBlock.segment_count_sit(bytes, 0),
    natAt: SuperBlock.nat_blkaddr(bytes, 0),
    natSegments: SuperBlock.segment_count_nat(bytes, 0),
    ssaAt: SuperBlock.ssa_blkaddr(bytes, 0),
    mainAt: SuperBlock.main_blkaddr(bytes, 0),
    mainSegments: SuperBlock.segment_count_main(bytes, 0),
    rootIno: SuperBlock.root_ino(bytes, 0),
    payload: SuperBlock.cp_payload(bytes, 0),
    feature: SuperBlock.feature(bytes, 0),
    label: labelOf(SuperBlock.volume_name(bytes, 0)),
  };
  const { checkpointAt, sitAt, natAt, ssaAt, mainAt, mainSegments } = geometry;
  const inOrder =
    checkpointAt > 0 && checkpointAt < sitAt && sitAt < natAt && natAt < ssaAt && ssaAt < mainAt && mainAt < geometry.blockCount;
  if (
    blocksPerSegment !== 512 ||
    !inOrder ||
    mainSegments === 0 ||
    mainSegments > MAX_SEGMENTS ||
    !Number.isSafeInteger(geometry.blockCount * BLOCK_BYTES)
  )
    return null;
  if (
    mainAt + mainSegments * blocksPerSegment > geometry.blockCount + blocksPerSegment ||
    geometry.natSegments > MAX_SEGMENTS ||
    geometry.payload > 64
  )
    return null;
  if (geometry.ssaAt + mainSegments > mainAt || (geometry.sitSegments / 2) * blocksPerSegment * 55 < mainSegments) return null;
  const seed = (geometry.feature & Feature.inode_chksum) !== 0 ? volumeSeed(SuperBlock.uuid(bytes, 0)) : null;
  return { ...geometry, seed };
}

function labelOf(bytes: Uint8Array): string | null {
  const text = new TextDecoder("utf-16le").decode(bytes);
  return text.slice(0, Math.max(0, text.indexOf("\0"))).trim() || null;
}

/** The superblock, or its copy in the next block. */
export async function findGeometry(
  source: PatientSource,
  start: number,
  length: number,
): Promise<{ geometry: Geometry; fromCopy: boolean } | null> {
  let spare: { geometry: Geometry; fromCopy: boolean } | null = null;
  for (const copy of [0, 1]) {
    const at = copy * BLOCK_BYTES + SUPER_OFFSET;
    if (at + SuperBlock.size > length || start + at + SuperBlock.size > source.size) continue;
    const bytes = await source.read(start + at, SuperBlock.size);
    const geometry = readGeometry(bytes, start);
    if (!geometry) continue;
    if ((geometry.feature & Feature.sb_chksum) === 0 || superBlockHolds(bytes)) return { geometry, fromCopy: copy > 0 };
    spare ??= { geometry, fromCopy: copy > 0 };
  }
  return spare;
}

/** Both checkpoint packs, the newer sound one first. A pack is sound where its first and last block agree with their sums and each other. */
export async function readPacks(source: PatientSource, geometry: Geometry): Promise<{ packs: Pack[]; troubles: Trouble[] }> {
  const packs: Pack[] = [];
  const troubles: Trouble[] = [];
  for (const at of [geometry.checkpointAt, geometry.checkpointAt + geometry.blocksPerSegment]) {
    const place = geometry.start + at * BLOCK_BYTES;
    const pack = await readPack(source, geometry, at);
    if (pack) packs.push(pack);
    else troubles.push({ what: "one of the two checkpoints is not whole; the other one is used", at: place, length: BLOCK_BYTES });
  }
  return { packs: packs.sort((a, b) => b.version - a.version), troubles };
}

async function readPack(source: PatientSource, geometry: Geometry, at: number): Promise<Pack | null> {
  const read = async (block: number, count = 1) => {
    const place = geometry.start + block * BLOCK_BYTES;
    return place + count * BLOCK_BYTES <= source.size ? source.read(place, count * BLOCK_BYTES) : null;
  };
  const first = await read(at);
  if (!first || !checkpointHolds(first)) return null;
  const total = Checkpoint.cp_pack_total_block_count(first, 0);
  if (total < 2 || total > geometry.blocksPerSegment) return null;
  const last = await read(at + total - 1);
  if (!last || !checkpointHolds(last) || Checkpoint.checkpoint_ver(last, 0) !== Checkpoint.checkpoint_ver(first, 0)) return null;
  const flags = Checkpoint.ckpt_flags(first, 0);
  const whole = (await read(at, 1 + geometry.payload)) ?? first;
  const sitBytes = Checkpoint.sit_ver_bitmap_bytesize(first, 0);
  const natBytes = Checkpoint.nat_ver_bitmap_bytesize(first, 0);
  const bitmaps = Checkpoint.size;
  // `__bitmap_ptr` of the kernel's f2fs.h.
  const large = (flags & CheckpointFlag.large_nat_bitmap) !== 0;
  const natAt = large ? bitmaps + 4 : geometry.payload > 0 ? bitmaps : bitmaps + sitBytes;
  const sitAt = large ? bitmaps + 4 + natBytes : geometry.payload > 0 ? BLOCK_BYTES : bitmaps;
  if (natAt + natBytes > whole.length || sitAt + sitBytes > whole.length) return null;
  const logs = (segments: Uint8Array, offsets: Uint8Array, firstType: number): Log[] =>
    [0, 1, 2].map((index) => ({
      segment: word(segments, index * 4),
      next: half(offsets, index * 2),
      fresh: Checkpoint.alloc_type(first, 0)[firstType + index] === 0,
    }));
  const version = Checkpoint.checkpoint_ver(first, 0);
  return {
    version,
    low: version % 2 ** 32,
    at,
    flags,
    startSummary: Checkpoint.cp_pack_start_sum(first, 0),
    natBitmap: whole.slice(natAt, natAt + natBytes),
    sitBitmap: whole.slice(sitAt, sitAt + sitBytes),
    userBlocks: Checkpoint.user_block_count(first, 0),
    validBlocks: Checkpoint.valid_block_count(first, 0),
    dataLogs: logs(Checkpoint.cur_data_segno(first, 0), Checkpoint.cur_data_blkoff(first, 0), 0),
    nodeLogs: logs(Checkpoint.cur_node_segno(first, 0), Checkpoint.cur_node_blkoff(first, 0), 3),
  };
}
