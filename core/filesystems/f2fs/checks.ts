import { Polynomial, runningCrc } from "../../bytes/hash.ts";
import { BLOCK_BYTES, Checkpoint, ExtraAttributes, F2FS_MAGIC, Inode, NODE_FOOTER_AT, NodeFooter, SuperBlock, word } from "./layout.ts";

/** F2FS's CRC-32: begun with the file system's magic number, without inversion at the end (`f2fs_crc32`). */
const crc = (bytes: Uint8Array, seed: number = F2FS_MAGIC): number => runningCrc(Polynomial.crc32, seed, bytes);

/** Does the first or last block of a checkpoint pack agree with its check sum? */
export function checkpointHolds(block: Uint8Array): boolean {
  const at = Checkpoint.checksum_offset(block, 0);
  if (at < Checkpoint.size || at > BLOCK_BYTES - 4) return false;
  const sum = crc(block.subarray(0, at));
  return word(block, at) === (at < BLOCK_BYTES - 4 ? crc(block.subarray(at + 4), sum) : sum);
}

/** The superblock's own, where the volume has one. */
export const superBlockHolds = (bytes: Uint8Array): boolean => SuperBlock.crc(bytes, 0) === crc(bytes.subarray(0, SuperBlock.crc.at));

/** Seed of the inodes' check sums. */
export const volumeSeed = (uuid: Uint8Array): number => crc(uuid, 0xffff_ffff);

/** `f2fs_inode_chksum`: over number, generation, and the whole block with its own field taken as zeros. */
export function inodeHolds(seed: number, block: Uint8Array): boolean {
  const at = Inode.i_addr.at + ExtraAttributes.i_inode_checksum.at;
  const number = block.subarray(NODE_FOOTER_AT + NodeFooter.ino.at, NODE_FOOTER_AT + NodeFooter.ino.at + 4);
  const generation = block.subarray(Inode.i_generation.at, Inode.i_generation.at + 4);
  const sum = [number, generation, block.subarray(0, at), new Uint8Array(4), block.subarray(at + 4)].reduce(
    (seeded, part) => crc(part, seeded),
    seed,
  );
  return sum === ExtraAttributes.i_inode_checksum(block, Inode.i_addr.at);
}
