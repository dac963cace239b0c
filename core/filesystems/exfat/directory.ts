import type { FolderEntry, FolderFormat } from "../clusters/folder-format.ts";
import { setChecksum } from "./checks.ts";
import { ATTRIBUTE_DIRECTORY, ENTRY_BYTES, FileEntry, IN_USE, NameEntry, SecondaryFlag, StreamEntry, Type } from "./layout.ts";

/** §7.4.8: two seconds to years since 1980, ten-millisecond steps, and the offset from UTC in quarters of an hour where it is valid. */
export function timeOf(stamp: number, increments: number, offset: number): number | null {
  const month = (stamp >>> 21) & 15;
  const day = (stamp >>> 16) & 31;
  const [hour, minute, second] = [(stamp >>> 11) & 31, (stamp >>> 5) & 63, (stamp & 31) * 2];
  if (day === 0 || month === 0 || month > 12 || hour > 23 || minute > 59 || second > 58) return null;
  const quarters = (offset & 0x80) !== 0 ? ((offset & 0x7f) ^ 0x40) - 0x40 : 0;
  return Date.UTC(1980 + (stamp >>> 25), month - 1, day, hour, minute, second) + Math.min(199, increments) * 10 - quarters * 15 * 60_000;
}

/** Secondary entries of one set: a stream and at most 17 names, and vendor's ones. */
const MAX_SECONDARY = 18;

/** One entry set at `at`. Null: none stands there, or its check sum does not agree. */
function readSet(bytes: Uint8Array, at: number): (FolderEntry & { readonly entries: number }) | null {
  const type = bytes[at] | IN_USE;
  if (type !== Type.file || at + 3 * ENTRY_BYTES > bytes.length) return null;
  const erased = (bytes[at] & IN_USE) === 0;
  const secondary = FileEntry.SecondaryCount(bytes, at);
  const entries = 1 + secondary;
  const stream = at + ENTRY_BYTES;
  if (secondary < 2 || secondary > MAX_SECONDARY || at + entries * ENTRY_BYTES > bytes.length) return null;
  if ((bytes[stream] | IN_USE) !== Type.stream || setChecksum(bytes, at, entries) !== FileEntry.SetChecksum(bytes, at)) return null;
  const length = StreamEntry.NameLength(bytes, stream);
  const units: number[] = [];
  for (let entry = 2; entry < entries && units.length < length; entry++) {
    const base = at + entry * ENTRY_BYTES;
    if ((bytes[base] | IN_USE) !== Type.name) return null;
    const part = NameEntry.FileName(bytes, base);
    for (let unit = 0; unit < 15 && units.length < length; unit++) units.push(part[unit * 2] | (part[unit * 2 + 1] << 8));
  }
  if (length === 0 || units.length < length) return null;
  const flags = StreamEntry.GeneralSecondaryFlags(bytes, stream);
  const size = StreamEntry.DataLength(bytes, stream);
  if (!Number.isSafeInteger(size)) return null;
  return {
    at,
    entries,
    erased,
    name: String.fromCharCode(...units),
    lost: [],
    folder: (FileEntry.FileAttributes(bytes, at) & ATTRIBUTE_DIRECTORY) !== 0,
    firstCluster: StreamEntry.FirstCluster(bytes, stream),
    size,
    modified: timeOf(
      FileEntry.LastModifiedTimestamp(bytes, at),
      FileEntry.LastModified10msIncrement(bytes, at),
      FileEntry.LastModifiedUtcOffset(bytes, at),
    ),
    created: timeOf(FileEntry.CreateTimestamp(bytes, at), FileEntry.Create10msIncrement(bytes, at), FileEntry.CreateUtcOffset(bytes, at)),
    inOneRun: (flags & SecondaryFlag.noFatChain) !== 0,
  };
}

/** Entry sets of a folder's clusters, present and erased. After the end mark only erased ones are taken: they are left over from before. */
function readEntries(bytes: Uint8Array): FolderEntry[] {
  const found: FolderEntry[] = [];
  let ended = false;
  for (let at = 0; at + ENTRY_BYTES <= bytes.length; ) {
    if (bytes[at] === Type.end) ended = true;
    const set = readSet(bytes, at);
    if (set && (set.erased || !ended)) {
      found.push(set);
      at += set.entries * ENTRY_BYTES;
    } else at += ENTRY_BYTES;
  }
  return found;
}

const KNOWN = new Set<number>([Type.bitmap, Type.upCase, Type.label, Type.file, Type.stream, Type.name, 0xa0, 0xe0, 0xe1]);

/** Entries of known types up to the end mark, then nothing but zeros, and at least one set that agrees with its check sum. */
function looksLikeFolderBlock(block: Uint8Array): boolean {
  let sets = 0;
  for (let at = 0; at + ENTRY_BYTES <= block.length; at += ENTRY_BYTES) {
    if (block[at] === Type.end) return sets > 0 && block.subarray(at).every((byte) => byte === 0);
    if (!KNOWN.has(block[at] | IN_USE)) return false;
    if (readSet(block, at)) sets++;
  }
  return sets > 0;
}

/** §7.1, §7.2: only the root holds the bitmap and the up-case table. */
function looksLikeRoot(block: Uint8Array): boolean {
  if (!looksLikeFolderBlock(block)) return false;
  for (let at = 0; at + ENTRY_BYTES <= block.length && block[at] !== Type.end; at += ENTRY_BYTES)
    if (block[at] === Type.bitmap || block[at] === Type.upCase) return true;
  return false;
}

function isFullBlock(block: Uint8Array): boolean {
  for (let at = 0; at + ENTRY_BYTES <= block.length; at += ENTRY_BYTES) if (block[at] === Type.end) return false;
  return true;
}

/** The cheap first look: a file entry with a stream behind it. */
const mayBeFolderBlock = (bytes: Uint8Array, at: number): boolean =>
  (bytes[at] | IN_USE) === Type.file &&
  (bytes[at + ENTRY_BYTES] | IN_USE) === Type.stream &&
  FileEntry.SecondaryCount(bytes, at) <= MAX_SECONDARY;

export const exfatFolders: FolderFormat = {
  entryBytes: ENTRY_BYTES,
  readEntries,
  filler: 0x01,
  hasDots: false,
  readDots: () => null,
  looksLikeFolderBlock,
  mayBeFolderBlock,
  isFullBlock,
  looksLikeRoot,
};
