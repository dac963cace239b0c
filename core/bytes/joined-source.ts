import { type ByteSource, checkRange } from "./source.ts";

/** Several sources one after the other: an image that was split into `.001 .002 …`. */
export const joinedSource = (parts: readonly ByteSource[], name: string): ByteSource => ({
  name,
  size: parts.reduce((sum, part) => sum + part.size, 0),
  async read(offset, length) {
    checkRange(this, offset, length);
    const pieces: Uint8Array[] = [];
    let start = 0;
    for (const part of parts) {
      const from = Math.max(offset, start);
      const to = Math.min(offset + length, start + part.size);
      if (from < to) pieces.push(await part.read(from - start, to - from));
      start += part.size;
    }
    if (pieces.length === 1) return pieces[0];
    const whole = new Uint8Array(length);
    let done = 0;
    for (const piece of pieces) {
      whole.set(piece, done);
      done += piece.length;
    }
    return whole;
  },
});
