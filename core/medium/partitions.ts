import { layout, raw, u8, u16, u32 } from "../bytes/layout.ts";
import { type ByteSource, UnusableError } from "../bytes/source.ts";
import type { Trouble } from "../bytes/trouble.ts";
import { readGpt } from "./gpt.ts";
import type { Partition } from "./partition.ts";

/** The classic partition sector; the layout is common practice, laid down in UEFI 2.10 §5.2.1. Little-endian. */
const PartitionSector = layout(512, { entries: raw(446, 64), signature: u16(510) });
/** UEFI 2.10 table 5.2. Starts and lengths count sectors from the start of the medium. */
const PartitionEntry = layout(16, { bootIndicator: u8(0), type: u8(4), firstSector: u32(8), sectors: u32(12) });
const SIGNATURE = 0xaa55;
const SECTOR = 512;
const ENTRIES = 4;
/** Types of an extended partition, which holds a chain of further tables: common practice, no source. */
const EXTENDED = [0x05, 0x0f, 0x85];
/** UEFI 2.10 §5.2.3: the one entry that says "a GUID partition table is here". */
const PROTECTIVE = 0xee;
/** Logical partitions before we stop believing. */
const MAX_LOGICAL = 128;

interface Entry {
  readonly type: number;
  readonly start: number;
  readonly length: number;
  readonly at: number;
}

/** Entries of a partition sector at `at`. Null: it is none (a volume's own boot sector bears the same signature). */
async function readEntries(source: ByteSource, at: number): Promise<Entry[] | null> {
  if (at + PartitionSector.size > source.size) return null;
  const sector = await source.read(at, PartitionSector.size);
  if (PartitionSector.signature(sector, 0) !== SIGNATURE) return null;
  const entries = PartitionSector.entries(sector, 0);
  const read: Entry[] = [];
  for (let index = 0; index < ENTRIES; index++) {
    const base = index * PartitionEntry.size;
    const indicator = PartitionEntry.bootIndicator(entries, base);
    if (indicator !== 0 && indicator !== 0x80) return null;
    read.push({
      type: PartitionEntry.type(entries, base),
      start: PartitionEntry.firstSector(entries, base) * SECTOR,
      length: PartitionEntry.sectors(entries, base) * SECTOR,
      at: at + 446 + base,
    });
  }
  return read;
}

/** Follows the chain of tables in an extended partition: each tells of one volume and of the next table. */
async function* logical(source: ByteSource, extended: Entry): AsyncGenerator<Entry> {
  const seen = new Set<number>();
  let table = extended.start;
  while (seen.size < MAX_LOGICAL && !seen.has(table)) {
    seen.add(table);
    const entries = await readEntries(source, table);
    if (!entries) return;
    const [own, next] = entries;
    if (own.type !== 0 && own.length > 0) yield { ...own, start: table + own.start };
    if (!EXTENDED.includes(next.type) || next.length === 0) return;
    table = extended.start + next.start;
  }
}

/**
 * Partitions of a medium: by its GUID table, else by its MBR with extended partitions. A medium without either is a single
 * stretch from its start to its end. A partition that runs over the end is cut there, with a trouble: cut-off images are common.
 */
export async function readPartitions(source: ByteSource): Promise<{ partitions: Partition[]; troubles: Trouble[]; table: boolean }> {
  const whole = { partitions: [{ start: 0, length: source.size, type: 0, name: null }], troubles: [] as Trouble[], table: false };
  if (source.size === 0) throw new UnusableError(`${source.name} is empty: there is nothing in it to look for.`);
  const entries = await readEntries(source, 0);
  if (!entries || entries.some(({ type }) => type === PROTECTIVE)) {
    const gpt = await readGpt(source);
    if (gpt && gpt.partitions.length > 0) return { ...gpt, table: true };
  }
  if (!entries) return whole;
  const partitions: Partition[] = [];
  const troubles: Trouble[] = [];
  const add = ({ type, start, length, at }: Entry, number: number) => {
    if (start >= source.size) {
      troubles.push({ what: `partition ${number} lies beyond the end of ${source.name}`, at, length: PartitionEntry.size });
      return;
    }
    const there = Math.min(length, source.size - start);
    if (there < length)
      troubles.push({
        what: `${source.name} is cut off: ${length - there} bytes of partition ${number} are missing`,
        at: source.size,
        length: length - there,
      });
    partitions.push({ start, length: there, type, name: null });
  };
  let number = ENTRIES;
  for (const [index, entry] of entries.entries()) {
    if (entry.type === 0 || entry.length === 0 || entry.type === PROTECTIVE) continue;
    if (!EXTENDED.includes(entry.type)) add(entry, index + 1);
    else for await (const inner of logical(source, entry)) add(inner, ++number);
  }
  return partitions.length > 0 ? { partitions, troubles, table: true } : { ...whole, troubles };
}
