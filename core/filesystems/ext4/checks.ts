import { Polynomial, runningCrc } from "../../bytes/hash.ts";
import { ExtentHeader, GOOD_OLD_INODE_SIZE, GroupDescriptor, Inode, SuperBlock } from "./layout.ts";

/** "Checksums" of the kernel's document: CRC-32C without inversion, seeded with the volume's UUID, then with inode and generation. */
const NONE = new Uint8Array(0);
const ALL_ONES = 0xffff_ffff;

const u32Bytes = (value: number): Uint8Array => Uint8Array.of(value & 0xff, (value >>> 8) & 0xff, (value >>> 16) & 0xff, value >>> 24);
const crc32c = (seed: number, bytes: Uint8Array): number => runningCrc(Polynomial.crc32c, seed, bytes);

/** Seed of all metadata check sums of a volume. */
export const volumeSeed = (uuid: Uint8Array): number => crc32c(ALL_ONES, uuid);

/** Does the superblock agree with its own check sum? */
export const superBlockHolds = (bytes: Uint8Array): boolean =>
  crc32c(ALL_ONES, bytes.subarray(0, SuperBlock.s_checksum.at)) === SuperBlock.s_checksum(bytes, 0);

export const inodeSeed = (seed: number, number: number, generation: number): number =>
  crc32c(crc32c(seed, u32Bytes(number)), u32Bytes(generation));

/** Sum over an inode with its own check sum fields taken as zeros. */
export function inodeHolds(seed: number, number: number, bytes: Uint8Array): boolean {
  const long = bytes.length > GOOD_OLD_INODE_SIZE && Inode.i_extra_isize(bytes, 0) >= 4;
  const copy = bytes.slice();
  copy.fill(0, Inode.i_checksum_lo.at, Inode.i_checksum_lo.at + 2);
  if (long) copy.fill(0, Inode.i_checksum_hi.at, Inode.i_checksum_hi.at + 2);
  const sum = crc32c(inodeSeed(seed, number, Inode.i_generation(bytes, 0)), copy);
  const stored = Inode.i_checksum_lo(bytes, 0) + (long ? Inode.i_checksum_hi(bytes, 0) * 0x10000 : 0);
  return long ? sum === stored : (sum & 0xffff) === stored;
}

/** The tail behind an extent block's entries (`ext4_extent_tail`). `own`: the seed of the inode it belongs to. */
export function extentBlockHolds(own: number, block: Uint8Array): boolean {
  const tail = ExtentHeader.size + 12 * ExtentHeader.eh_max(block, 0);
  if (tail + 4 > block.length) return false;
  return equals(crc32c(own, block.subarray(0, tail)), block, tail);
}

/** The tail of a folder block (`ext4_dir_entry_tail`): its last four bytes. */
export const folderBlockHolds = (own: number, block: Uint8Array): boolean =>
  equals(crc32c(own, block.subarray(0, block.length - 12)), block, block.length - 4);

/** `bg_checksum`: CRC-16 over UUID, group and descriptor (gdt_csum), or the low half of CRC-32C (metadata_csum). */
export function descriptorHolds(kind: "crc16" | "crc32c", seed: number, uuid: Uint8Array, group: number, descriptor: Uint8Array): boolean {
  const at = GroupDescriptor.bg_checksum.at;
  const before = descriptor.subarray(0, at);
  const after = descriptor.length > at + 2 ? descriptor.subarray(at + 2) : NONE;
  const number = u32Bytes(group);
  const stored = GroupDescriptor.bg_checksum(descriptor, 0);
  if (kind === "crc32c") {
    const sum = [number, before, Uint8Array.of(0, 0), after].reduce(crc32c, seed);
    return (sum & 0xffff) === stored;
  }
  const crc16 = (sum: number, bytes: Uint8Array) => runningCrc(Polynomial.crc16, sum, bytes);
  return [uuid, number, before, after].reduce(crc16, 0xffff) === stored;
}

const equals = (sum: number, bytes: Uint8Array, at: number): boolean => u32Bytes(sum).every((byte, index) => bytes[at + index] === byte);
