import { layout, raw, u8, u16, u32 } from "../bytes/layout.ts";
import { type ByteSource, UnusableError } from "../bytes/source.ts";
import type { Trouble } from "../bytes/trouble.ts";

/** The classic partition sector; the layout is common practice, laid down in UEFI 2.10 §5.2.1. Little-endian. */
const PartitionSector = layout(512, { entries: raw(446, 64), signature: u16(510) });
/** UEFI 2.10 table 5.2. Starts and lengths count sectors from the start of the medium. */
const PartitionEntry = layout(16, { bootIndicator: u8(0), type: u8(4), firstSector: u32(8), sectors: u32(12) });
const SIGNATURE = 0xaa55;
const SECTOR = 512;
const ENTRIES = 4;

export interface Partition {
  readonly start: number;
  readonly length: number;
  /** 0 where there is no partition table. */
  readonly type: number;
}

/**
 * Partitions of a medium by its MBR. A medium without one is a single stretch from its start to its end.
 * A partition that runs over the end is cut there, with a trouble: cut-off images are common.
 */
export async function readPartitions(source: ByteSource): Promise<{ partitions: Partition[]; troubles: Trouble[] }> {
  const whole: Partition = { start: 0, length: source.size, type: 0 };
  if (source.size === 0) throw new UnusableError(`${source.name} is empty: there is nothing in it to look for.`);
  if (source.size < PartitionSector.size) return { partitions: [whole], troubles: [] };
  const sector = await source.read(0, PartitionSector.size);
  if (PartitionSector.signature(sector, 0) !== SIGNATURE) return { partitions: [whole], troubles: [] };
  const entries = PartitionSector.entries(sector, 0);
  const partitions: Partition[] = [];
  const troubles: Trouble[] = [];
  for (let index = 0; index < ENTRIES; index++) {
    const base = index * PartitionEntry.size;
    const indicator = PartitionEntry.bootIndicator(entries, base);
    const start = PartitionEntry.firstSector(entries, base) * SECTOR;
    const length = PartitionEntry.sectors(entries, base) * SECTOR;
    // A volume's own boot sector bears the same signature: its code is no table.
    if (indicator !== 0 && indicator !== 0x80) return { partitions: [whole], troubles: [] };
    if (PartitionEntry.type(entries, base) === 0 || length === 0) continue;
    const at = 446 + base;
    if (start >= source.size) {
      troubles.push({ what: `partition ${index + 1} lies beyond the end of ${source.name}`, at, length: PartitionEntry.size });
      continue;
    }
    const there = Math.min(length, source.size - start);
    if (there < length)
      troubles.push({
        what: `${source.name} is cut off: ${length - there} bytes of partition ${index + 1} are missing`,
        at: source.size,
        length: length - there,
      });
    partitions.push({ start, length: there, type: PartitionEntry.type(entries, base) });
  }
  return partitions.length > 0 ? { partitions, troubles } : { partitions: [whole], troubles };
}
