import { u32be } from "../../bytes/layout.ts";
import type { ByteSource } from "../../bytes/source.ts";
import { some } from "./follow.ts";

const be32 = u32be(0);
const MAX_BOXES = 100_000;

/** A box (ISO/IEC 14496-12 §4.2): its size and four letters, then what it holds. */
export interface Box {
  readonly at: number;
  readonly type: string;
  /** Bytes with its head. Null: it goes on to the end of the file. */
  readonly size: number | null;
  /** Bytes of its head. */
  readonly head: number;
}

/** The box at a byte. Null: none is there, or its size cannot be. */
export async function boxAt(content: ByteSource, at: number): Promise<Box | null> {
  const bytes = await some(content, at, 16);
  if (bytes.length < 8) return null;
  const type = String.fromCharCode(...bytes.subarray(4, 8));
  const short = be32(bytes, 0);
  if (short === 0) return { at, type, size: null, head: 8 };
  if (short !== 1) return short < 8 ? null : { at, type, size: short, head: 8 };
  const size = bytes.length < 16 ? 0 : be32(bytes, 8) * 2 ** 32 + be32(bytes, 12);
  return size < 16 || !Number.isSafeInteger(size) ? null : { at, type, size, head: 16 };
}

/** The boxes one after the other from `from` on, up to `to`, or to where none begins. */
export async function* boxes(content: ByteSource, from: number, to: number): AsyncGenerator<Box> {
  let at = from;
  for (let count = 0; count < MAX_BOXES && at + 8 <= to; count++) {
    const box = await boxAt(content, at);
    if (!box) return;
    yield box;
    if (box.size === null) return;
    at += box.size;
  }
}

/** The first box of that path: each name is one of the boxes within the one before. Null: there is none. */
export async function boxWithin(content: ByteSource, path: readonly string[]): Promise<Box | null> {
  let from = 0;
  let to = content.size;
  let found: Box | null = null;
  for (const type of path) {
    found = null;
    for await (const box of boxes(content, from, to)) {
      if (box.type !== type) continue;
      found = box;
      break;
    }
    if (!found) return null;
    // Boxes of one kind begin with a version and flags (§4.2).
    from = found.at + found.head + (FULL.has(type) ? 4 : 0);
    to = Math.min(to, found.size === null ? to : found.at + found.size);
  }
  return found;
}

/** Those that hold boxes behind a version and flags. */
const FULL = new Set(["meta"]);
