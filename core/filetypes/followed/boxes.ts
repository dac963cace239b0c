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
