import { type ByteSource, checkRange } from "./source.ts";

/** Bytes that are in memory already. */
export const memorySource = (bytes: Uint8Array, name = "memory"): ByteSource => ({
  name,
  size: bytes.length,
  async read(offset, length) {
    checkRange(this, offset, length);
    return new Uint8Array(bytes.buffer, bytes.byteOffset + offset, length);
  },
});
