import { crc32Of } from "../bytes/hash.ts";
import { latin, layout, raw, u32, u64 } from "../bytes/layout.ts";
import type { ByteSource } from "../bytes/source.ts";
import type { Trouble } from "../bytes/trouble.ts";
import type { Partition } from "./partition.ts";

/** GUID partition table: UEFI specification 2.10, §5.3. Little-endian. */

/** Table 5.5 "GPT Header". */
const Header = layout(92, {
  signature: latin(0, 8),
  revision: u32(8),
  headerSize: u32(12),
  headerCrc32: u32(16),
  myLba: u64(24),
  alternateLba: u64(32),
  firstUsableLba: u64(40),
  lastUsableLba: u64(48),
  diskGuid: raw(56, 16),
  partitionEntryLba: u64(72),
  numberOfPartitionEntries: u32(80),
  sizeOfPartitionEntry: u32(84),
  partitionEntryArrayCrc32: u32(88),
});
/** Table 5.6 "GPT Partition Entry". */
const Entry = layout(128, {
  partitionTypeGuid: raw(0, 16),
  startingLba: u64(32),
  endingLba: u64(40),
  attributes: u64(48),
  partitionName: raw(56, 72),
});

const SIGNATURE = "EFI PART";
/** Logical blocks are 512 bytes on cards, 4096 on phones' newer storage. */
const BLOCKS = [512, 4096];
const MAX_ENTRIES = 1024;
const MAX_ENTRY = 4096;

interface Table {
  readonly partitions: Partition[];
  readonly troubles: Trouble[];
  /** Both check sums agree. */
  readonly sound: boolean;
}

/** One of the two headers with its entries. Null: none is there. */
async function readTable(source: ByteSource, lba: number, blockBytes: number): Promise<Table | null> {
  const at = lba * blockBytes;
  if (at < 0 || at + blockBytes > source.size) return null;
  const block = await source.read(at, blockBytes);
  if (Header.signature(block, 0) !== SIGNATURE) return null;
  const headerSize = Header.headerSize(block, 0);
  const count = Header.numberOfPartitionEntries(block, 0);
  const entryBytes = Header.sizeOfPartitionEntry(block, 0);
  const entriesAt = Header.partitionEntryLba(block, 0) * blockBytes;
  if (headerSize < Header.size || headerSize > blockBytes || count > MAX_ENTRIES || entryBytes < Entry.size || entryBytes > MAX_ENTRY)
    return null;
  if (!Number.isSafeInteger(entriesAt) || entriesAt + count * entryBytes > source.size) return null;
  const header = block.slice(0, headerSize);
  header.fill(0, Header.headerCrc32.at, Header.headerCrc32.at + 4);
  const entries = await source.read(entriesAt, count * entryBytes);
  const sound =
    crc32Of(header) === Header.headerCrc32(block, 0) &&
    crc32Of(entries) === Header.partitionEntryArrayCrc32(block, 0) &&
    Header.myLba(block, 0) === lba;
  const partitions: Partition[] = [];
  const troubles: Trouble[] = [];
  for (let index = 0; index < count; index++) {
    const base = index * entryBytes;
    if (Entry.partitionTypeGuid(entries, base).every((byte) => byte === 0)) continue;
    const start = Entry.startingLba(entries, base) * blockBytes;
    const end = (Entry.endingLba(entries, base) + 1) * blockBytes;
    const place = entriesAt + base;
    if (!Number.isSafeInteger(end) || end <= start || start >= source.size) {
      troubles.push({ what: `partition ${index + 1} lies beyond the end of ${source.name}`, at: place, length: entryBytes });
      continue;
    }
    if (end > source.size)
      troubles.push({
        what: `${source.name} is cut off: ${end - source.size} bytes of partition ${index + 1} are missing`,
        at: source.size,
        length: end - source.size,
      });
    partitions.push({ start, length: Math.min(end, source.size) - start, type: 0, name: nameOf(Entry.partitionName(entries, base)) });
  }
  return { partitions, troubles, sound };
}

/** UTF-16LE up to the first zero. */
function nameOf(bytes: Uint8Array): string | null {
  const text = new TextDecoder("utf-16le").decode(bytes);
  const end = text.indexOf("\0");
  return (end < 0 ? text : text.slice(0, end)) || null;
}

/** Partitions by the GPT: the first header where both its check sums agree, else the one at the end. Null: there is no GPT. */
export async function readGpt(source: ByteSource): Promise<{ partitions: Partition[]; troubles: Trouble[] } | null> {
  for (const blockBytes of BLOCKS) {
    const first = await readTable(source, 1, blockBytes);
    if (first?.sound) return first;
    const backup = await readTable(source, Math.floor(source.size / blockBytes) - 1, blockBytes);
    const used = backup?.sound ? backup : (first ?? backup);
    if (!used) continue;
    const what =
      used === backup
        ? "the partition table at the beginning is lost or broken; the copy at the end is used"
        : "the partition table does not agree with its check sums";
    return { partitions: used.partitions, troubles: [{ what, at: blockBytes, length: blockBytes }, ...used.troubles] };
  }
  return null;
}
