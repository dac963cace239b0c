import { DirEntry, FileType } from "./layout.ts";

/** One name in a folder. */
export interface Name {
  readonly inode: number;
  readonly name: string;
  readonly fileType: number;
  /** False: it stands in the slack of another entry, or in one that was given up. */
  readonly live: boolean;
  /** Byte within the block. */
  readonly at: number;
}

export interface FolderBlock {
  readonly names: Name[];
  /** Folder's own inode and its parent's, where the block begins with `.` and `..`. */
  readonly dots: { self: number; parent: number } | null;
  /** False where the chain of entries does not fill the block: no folder block, or a damaged one. */
  readonly filled: boolean;
  /** Filled, and no name holds what none can: a zero or a slash. Encrypted ones do. */
  readonly sound: boolean;
}

const utf8 = new TextDecoder("utf-8", { fatal: true });
const loose = new TextDecoder("utf-8");
// biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is looked for
const IMPOSSIBLE = /[\u0000/]/g;
/** Bytes an entry with a name of this length takes at least. */
const needed = (nameLength: number): number => (DirEntry.size + nameLength + 3) & ~3;

function nameAt(block: Uint8Array, at: number, strict: boolean): string | null {
  const length = DirEntry.name_len(block, at);
  if (length === 0 || at + DirEntry.size + length > block.length) return null;
  const bytes = block.subarray(at + DirEntry.size, at + DirEntry.size + length);
  // The others of the list must not be lost with one broken or encrypted name: what no name can hold is shown as lost.
  if (!strict) return loose.decode(bytes).replace(IMPOSSIBLE, "\ufffd");
  if (bytes.includes(0) || bytes.includes(0x2f)) return null;
  // In slack only what reads as a name is taken: anything may stand there.
  if (bytes.some((byte) => byte < 0x20 || byte === 0x7f)) return null;
  try {
    return utf8.decode(bytes);
  } catch {
    return null;
  }
}

/** Entries left in the slack [from, to): deleted ones keep inode, name and length until something is written there. */
function slackNames(block: Uint8Array, from: number, to: number, inodeCount: number, names: Name[]): void {
  for (let at = from; at + needed(1) <= to; at += 4) {
    const inode = DirEntry.inode(block, at);
    const length = DirEntry.rec_len(block, at);
    const fileType = DirEntry.file_type(block, at);
    if (inode === 0 || inode > inodeCount || length % 4 !== 0 || fileType === FileType.unknown || fileType > 7) continue;
    if (length < needed(DirEntry.name_len(block, at)) || at + length > block.length || at + needed(DirEntry.name_len(block, at)) > to)
      continue;
    const name = nameAt(block, at, true);
    if (name === null || name === "." || name === "..") continue;
    names.push({ inode, name, fileType, live: false, at });
    at += needed(DirEntry.name_len(block, at)) - 4;
  }
}

/** Reads a block of a folder: its entries in use, and those that deletions left. Nothing in it is believed unchecked. */
export function readFolderBlock(block: Uint8Array, inodeCount: number): FolderBlock {
  const names: Name[] = [];
  let self = 0;
  let parent = 0;
  let clean = true;
  let at = 0;
  while (at + DirEntry.size <= block.length) {
    const inode = DirEntry.inode(block, at);
    // "rec_len" of 65535 or 0 stands for a whole block of 64 KiB.
    const stored = DirEntry.rec_len(block, at);
    const length = block.length === 65536 && (stored === 65535 || stored === 0) ? 65536 : stored;
    const nameLength = DirEntry.name_len(block, at);
    if (length < 8 || length % 4 !== 0 || at + length > block.length || inode > inodeCount) break;
    if (inode !== 0 && needed(nameLength) > length) break;
    const fileType = DirEntry.file_type(block, at);
    if (inode !== 0) {
      const name = nameAt(block, at, false);
      const stored = block.subarray(at + DirEntry.size, at + DirEntry.size + nameLength);
      clean &&= name !== null && !stored.includes(0) && !stored.includes(0x2f);
      if (name === null) {
        // An entry without a name: the chain goes on behind it.
      } else if (name === "." && at === 0) self = inode;
      else if (name === ".." && self !== 0 && at === 12) parent = inode;
      else names.push({ inode, name, fileType, live: true, at });
      slackNames(block, at + needed(nameLength), at + length, inodeCount, names);
    } else if (!(fileType === FileType.checksum && length === 12)) {
      // Its inode is gone; names behind it may still be there.
      slackNames(block, at + (nameLength > 0 && nameLength + 8 <= length ? needed(nameLength) : 8), at + length, inodeCount, names);
    }
    at += length;
  }
  // Behind a broken place the chain is lost, but its names may be there.
  if (at < block.length) slackNames(block, at, block.length, inodeCount, names);
  return {
    names,
    dots: self !== 0 && parent !== 0 ? { self, parent } : null,
    filled: at === block.length,
    sound: at === block.length && clean,
  };
}

/**
 * Entries of a folder that is kept inside its inode ("Inline Directories"): parent's number first, then entries, and more of them in
 * an attribute. `parts`: where each begins within the inode. Places are counted from there: two entries have two.
 */
export function readInlineFolder(inode: Uint8Array, parts: readonly { at: number; length: number }[], inodeCount: number): Name[] {
  return parts.flatMap(({ at, length }) =>
    readFolderBlock(inode.subarray(at, at + length), inodeCount).names.map((name) => ({ ...name, at: name.at + at })),
  );
}
