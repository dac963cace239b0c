import { BLOCK_BYTES, DENTRIES_PER_BLOCK, DirEntry, FileType, SLOT_BYTES } from "./layout.ts";
import { type InodeNode, inlineAt, inlineBytes, nameOf } from "./node.ts";

/** One name in a folder's list. */
export interface Name {
  readonly ino: number;
  readonly name: string;
  readonly fileType: number;
  /** False: its bit is off, but it still stands in its slot. */
  readonly live: boolean;
  /** Byte within the block. */
  readonly at: number;
}

/** Where bitmap, entries and names begin, in bytes, and how many slots there are. */
interface Shape {
  readonly bitmapAt: number;
  readonly entriesAt: number;
  readonly namesAt: number;
  readonly slots: number;
}

/** `struct f2fs_dentry_block`: a bitmap of 27 bytes, three spare ones, 214 entries, then as many name slots. */
const BLOCK: Shape = { bitmapAt: 0, entriesAt: 30, namesAt: 30 + DENTRIES_PER_BLOCK * DirEntry.size, slots: DENTRIES_PER_BLOCK };

/** Inline folders (`make_dentry_ptr_inline`): as many slots as fit, the spare bytes behind the bitmap. */
function inlineShape(inode: InodeNode): Shape {
  const bytes = inlineBytes(inode);
  const slots = Math.floor((bytes * 8) / ((DirEntry.size + SLOT_BYTES) * 8 + 1));
  const bitmap = Math.ceil(slots / 8);
  const spare = bytes - (DirEntry.size + SLOT_BYTES) * slots - bitmap;
  const bitmapAt = inlineAt(inode);
  const entriesAt = bitmapAt + bitmap + spare;
  return { bitmapAt, entriesAt, namesAt: entriesAt + DirEntry.size * slots, slots };
}

/** Reads the entries of a block of a folder, those given up too: deleting one only clears its bits. */
export function readFolderBlock(block: Uint8Array, nodeLimit: number, shape: Shape = BLOCK): Name[] {
  const names: Name[] = [];
  if (block.length < BLOCK_BYTES) return names;
  const isOn = (slot: number) => (block[shape.bitmapAt + (slot >> 3)] & (1 << (slot & 7))) !== 0;
  for (let slot = 0; slot < shape.slots; slot++) {
    const at = shape.entriesAt + slot * DirEntry.size;
    const ino = DirEntry.ino(block, at);
    const length = DirEntry.name_len(block, at);
    const fileType = DirEntry.file_type(block, at);
    if (ino === 0 || ino >= nodeLimit || length === 0 || length > 255 || fileType > 7) continue;
    const slots = Math.ceil(length / SLOT_BYTES);
    if (slot + slots > shape.slots) continue;
    const live = isOn(slot);
    const nameAt = shape.namesAt + slot * SLOT_BYTES;
    const name = nameOf(block.subarray(nameAt, nameAt + length), live);
    if (name === null || (!live && fileType === FileType.unknown)) continue;
    names.push({ ino, name, fileType, live, at });
    if (live) slot += slots - 1;
  }
  return names;
}

export const readInlineFolder = (block: Uint8Array, inode: InodeNode, nodeLimit: number): Name[] =>
  readFolderBlock(block, nodeLimit, inlineShape(inode));
