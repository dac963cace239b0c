import type { PatientSource } from "../bytes/patient-source.ts";
import { SuperBlock as ExtSuper, SUPER_OFFSET, SUPER_SIGNATURE } from "./ext4/layout.ts";
import { F2FS_MAGIC } from "./f2fs/layout.ts";

/** Bytes read at a time. */
const WINDOW = 4 * 1024 * 1024;
const SECTOR = 512;
/** Places that are tried before everything is searched: where tools of all times put the first partition, in sectors. */
const USUAL = [63, 2048, 8192, 16_384, 32_768, 65_536];
/** Beginnings told of: more are files that hold images. */
const MAX_STARTS = 4096;

const u16 = (bytes: Uint8Array, at: number): number => bytes[at] | (bytes[at + 1] << 8);
const u32 = (bytes: Uint8Array, at: number): number => (u16(bytes, at) | (u16(bytes, at + 2) << 16)) >>> 0;

/**
 * Where a volume may begin, by what stands at a sector: a boot sector, or a superblock, a copy of one too. Offsets from the
 * sector back to the volume's start; the file systems' own openers decide whether it is one.
 */
function backFrom(bytes: Uint8Array, at: number): number[] {
  const starts: number[] = [];
  if (bytes[at + 510] === 0x55 && bytes[at + 511] === 0xaa && (bytes[at] === 0xeb || bytes[at] === 0xe9))
    // The copies of boot sectors: FAT32's in sector 6, exFAT's in sector 12.
    starts.push(0, 6 * SECTOR, 12 * SECTOR);
  if (u16(bytes, at + ExtSuper.s_magic.at) === SUPER_SIGNATURE && at + SECTOR <= bytes.length) {
    const group = u16(bytes, at + ExtSuper.s_block_group_nr.at);
    const logBlock = u32(bytes, at + ExtSuper.s_log_block_size.at);
    const perGroup = u32(bytes, at + ExtSuper.s_blocks_per_group.at);
    if (logBlock <= 6) starts.push(group === 0 ? SUPER_OFFSET : (group * perGroup + (logBlock === 0 ? 1 : 0)) * (1024 << logBlock));
  }
  if (u32(bytes, at) === F2FS_MAGIC) starts.push(SUPER_OFFSET, SUPER_OFFSET + 4096);
  return starts;
}

/** Beginnings of volumes at the places where partitions usually begin: a few sectors are read. */
export const usualStarts = (start: number, length: number): number[] =>
  USUAL.map((sector) => start + sector * SECTOR).filter((at) => at < start + length);

/** Possible beginnings of volumes in a stretch, window by window in order of where they were met: reads all of it. */
export async function* searchStarts(
  source: PatientSource,
  start: number,
  length: number,
  /** Where to go on: a byte that `searchedTo` told. */
  goOn = start,
): AsyncGenerator<{ starts: number[]; searchedTo: number }> {
  const told = new Set<number>();
  for (let from = goOn; from < start + length; from += WINDOW) {
    const bytes = await source.read(from, Math.min(WINDOW, start + length - from));
    const starts: number[] = [];
    for (let at = 0; at + SECTOR <= bytes.length; at += SECTOR)
      for (const back of backFrom(bytes, at)) {
        const begins = from + at - back;
        if (begins < start || told.has(begins) || told.size >= MAX_STARTS) continue;
        told.add(begins);
        starts.push(begins);
      }
    yield { starts, searchedTo: from + bytes.length };
  }
}
