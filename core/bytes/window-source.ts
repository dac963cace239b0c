import { type ByteSource, checkRange } from "./source.ts";

/** Keeps the last window that was read, for walkers that step through headers in small reads. */
export function windowSource(source: ByteSource, windowBytes = 64 * 1024): ByteSource {
  let start = 0;
  let window: Uint8Array = new Uint8Array(0);
  return {
    name: source.name,
    size: source.size,
    async read(offset, length) {
      checkRange(this, offset, length);
      if (length > windowBytes) return source.read(offset, length);
      if (offset < start || offset + length > start + window.length) {
        window = await source.read(offset, Math.min(windowBytes, source.size - offset));
        start = offset;
      }
      return window.subarray(offset - start, offset - start + length);
    },
  };
}
