import { dosTime } from "../../bytes/dos-time.ts";
import type { FolderEntry, FolderFormat } from "../clusters/folder-format.ts";
import { Attribute, DirEntry, FAT_ENTRY_MASK, Mark } from "./layout.ts";
import { isShortName, longName, shortName } from "./names.ts";

/** A time of an entry that stands, however odd its clock was: a wrong time of day leaves the day, and 60 seconds are the next minute's. */
function looseTime(date: number, time: number): number | null {
  const sound = dosTime(date, time);
  if (sound !== null) return sound;
  const day = dosTime(date, 0);
  const seconds = (time & 31) * 2;
  const minutes = (time >> 5) & 63;
  return day === null || time >> 11 > 23 || minutes > 59 ? day : day + (((time >> 11) * 60 + minutes) * 60 + seconds) * 1000;
}

const LOST_FIRST = "the first letter of its name was overwritten by the deletion";

const clusterOf = (bytes: Uint8Array, at: number): number =>
  ((DirEntry.firstClusterHigh(bytes, at) << 16) | DirEntry.firstClusterLow(bytes, at)) & FAT_ENTRY_MASK;

/** Does an erased entry make sense? Anything may stand there: it is judged strictly. */
const isPlausible = (bytes: Uint8Array, at: number): boolean => {
  const attributes = DirEntry.attributes(bytes, at);
  const erased = DirEntry.name(bytes, at)[0] === Mark.erased;
  return (
    (attributes & 0xc0) === 0 &&
    isShortName(DirEntry.name(bytes, at), erased) &&
    dosTime(DirEntry.writeDate(bytes, at), DirEntry.writeTime(bytes, at)) !== null &&
    !((attributes & Attribute.directory) !== 0 && DirEntry.fileSize(bytes, at) !== 0)
  );
};

/**
 * Can an entry that stands be one? Devices write odd ones (a broken clock, reserved attribute bits, lower case, a folder with a size), and
 * every driver shows them: only what no driver could name is none.
 */
const isNameable = (bytes: Uint8Array, at: number): boolean => {
  const name = DirEntry.name(bytes, at);
  return name[0] !== 0x20 && name.every((byte, index) => (byte >= 0x20 || (index === 0 && byte === Mark.kanjiE5)) && !UNNAMEABLE.has(byte));
};
const UNNAMEABLE = new Set(Array.from('"*/:<>?\\|\u007f', (letter) => letter.charCodeAt(0)));

/** Entries of a list that are looked at together, and of how many that no driver could name it is no list. */
const LIST_BYTES = 512;
const LEAST_GARBAGE = 2;

/** Is this stretch of a folder's list overwritten by something else? Then what makes sense in it by chance is judged strictly. */
function isGarbage(bytes: Uint8Array, from: number): boolean {
  let none = 0;
  for (let at = from; at + DirEntry.size <= Math.min(bytes.length, from + LIST_BYTES) && bytes[at] !== Mark.end; at += DirEntry.size)
    if (bytes[at] !== Mark.erased && bytes[at] !== DOT_MARK && !isLong(bytes, at) && !isNameable(bytes, at)) none++;
  return none >= LEAST_GARBAGE;
}
const DOT_MARK = 0x2e;

const isLong = (bytes: Uint8Array, at: number): boolean => (DirEntry.attributes(bytes, at) & 0x3f) === Attribute.longName;

/**
 * Entries of a folder's clusters, present and erased. After the end mark only erased entries that make sense are taken:
 * what stands there is left over from before.
 */
export function readEntries(bytes: Uint8Array): FolderEntry[] {
  const entries: FolderEntry[] = [];
  let ended = false;
  let garbage = false;
  for (let at = 0; at + DirEntry.size <= bytes.length; at += DirEntry.size) {
    const mark = bytes[at];
    if (at % LIST_BYTES === 0) garbage = isGarbage(bytes, at);
    if (mark === Mark.end) {
      ended = true;
      continue;
    }
    const attributes = DirEntry.attributes(bytes, at);
    if (isLong(bytes, at) || (attributes & Attribute.volumeId) !== 0 || isDots(bytes, at)) continue;
    const erased = mark === Mark.erased;
    if (ended && !erased) continue;
    if (!(erased || garbage ? isPlausible(bytes, at) : isNameable(bytes, at))) continue;
    const raw = DirEntry.name(bytes, at);
    const long = longName(bytes, at, raw, erased);
    const folder = (attributes & Attribute.directory) !== 0;
    entries.push({
      at,
      erased,
      name: long?.complete ? long.name : shortName(raw, DirEntry.ntReserved(bytes, at), erased, long?.firstByte),
      lost: long?.complete || !erased ? [] : [long ? `of its long name only the beginning is left: ${long.name}` : LOST_FIRST],
      folder,
      firstCluster: clusterOf(bytes, at),
      size: DirEntry.fileSize(bytes, at),
      modified: looseTime(DirEntry.writeDate(bytes, at), DirEntry.writeTime(bytes, at)),
      created: looseTime(DirEntry.createDate(bytes, at), DirEntry.createTime(bytes, at)),
      inOneRun: null,
    });
  }
  return entries;
}

const DOT = ".          ";
const DOT_DOT = "..         ";
const isDots = (bytes: Uint8Array, at: number): boolean => {
  if (bytes[at] !== DOT_MARK) return false;
  const name = String.fromCharCode(...DirEntry.name(bytes, at));
  return name === DOT || name === DOT_DOT;
};

/** The `.` and `..` entries that begin every folder but the root: its own cluster and its parent's (0: the root). */
export function readDots(bytes: Uint8Array): { self: number; parent: number } | null {
  if (bytes.length < 2 * DirEntry.size) return null;
  const nameAt = (at: number) => String.fromCharCode(...DirEntry.name(bytes, at));
  if (nameAt(0) !== DOT || nameAt(DirEntry.size) !== DOT_DOT) return null;
  if (!(DirEntry.attributes(bytes, 0) & Attribute.directory) || !(DirEntry.attributes(bytes, DirEntry.size) & Attribute.directory))
    return null;
  const self = clusterOf(bytes, 0);
  return self >= 2 ? { self, parent: clusterOf(bytes, DirEntry.size) } : null;
}

/** Can this block be a later part of a folder? Entries that make sense to the end mark, then nothing but zeros. */
function looksLikeFolderBlock(bytes: Uint8Array): boolean {
  let sensible = 0;
  for (let at = 0; at + DirEntry.size <= bytes.length; at += DirEntry.size) {
    if (bytes[at] === Mark.end) return sensible > 0 && bytes.subarray(at).every((byte) => byte === 0);
    if (isLong(bytes, at)) {
      if (bytes[at + 12] !== 0 || bytes[at + 26] !== 0 || bytes[at + 27] !== 0) return false;
    } else if ((DirEntry.attributes(bytes, at) & Attribute.volumeId) !== 0 || !isPlausible(bytes, at)) return false;
    sensible++;
  }
  return sensible > 0;
}

/**
 * Can this block begin a root folder: entries that stand or stood, from its first one on, a volume label among them? Most of what lies behind it
 * may have been written over since.
 */
function looksLikeRoot(bytes: Uint8Array): boolean {
  let sensible = 0;
  for (let at = 0; at + DirEntry.size <= Math.min(bytes.length, LIST_BYTES) && bytes[at] !== Mark.end; at += DirEntry.size) {
    const isLabel = (DirEntry.attributes(bytes, at) & 0x3f) === Attribute.volumeId;
    if (!isLabel && !isLong(bytes, at) && !isPlausible(bytes, at)) return false;
    sensible++;
  }
  return sensible > 0 && readDots(bytes) === null;
}

/** Is no entry of this block the end mark? Then the folder goes on in another cluster. */
function isFullBlock(bytes: Uint8Array): boolean {
  for (let at = 0; at + DirEntry.size <= bytes.length; at += DirEntry.size) if (bytes[at] === Mark.end) return false;
  return true;
}

/** The cheap first look at a block: a folder's `.` entry, or an entry with attributes that one can have. */
function mayBeFolderBlock(bytes: Uint8Array, at: number): boolean {
  if (bytes[at] === 0x2e) return true;
  const attributes = DirEntry.attributes(bytes, at);
  return bytes[at] > 0x20 && (attributes === 0x0f || attributes === 0x10 || attributes === 0x20) && (bytes[at + 43] & 0xc0) === 0;
}

/** FAT's folders, for the walk that all volumes of clusters share. */
export const fatFolders: FolderFormat = {
  entryBytes: DirEntry.size,
  filler: Mark.erased,
  hasDots: true,
  readEntries,
  readDots,
  looksLikeFolderBlock,
  mayBeFolderBlock,
  isFullBlock,
  looksLikeRoot,
};
