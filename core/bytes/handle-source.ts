import { type ByteSource, checkRange, UnreadableError } from "./source.ts";

/** The part of Node's `FileHandle` that is used: there is nothing in it that writes. */
export interface HandleLike {
  read(buffer: Uint8Array, offset: number, length: number, position: number): Promise<{ bytesRead: number }>;
}

/** An open file. `allocate` may give memory that is not cleared: it is filled before it is handed on. */
export const handleSource = (
  handle: HandleLike,
  size: number,
  name: string,
  allocate: (length: number) => Uint8Array = (length) => new Uint8Array(length),
): ByteSource => ({
  name,
  size,
  async read(offset, length) {
    checkRange(this, offset, length);
    // Plain bytes, whatever was given: `slice` of Node's own buffers does not copy, and what is read must not be changed.
    const memory = allocate(length);
    const bytes = new Uint8Array(memory.buffer, memory.byteOffset, length);
    for (let done = 0; done < length; ) {
      const { bytesRead } = await handle.read(bytes, done, length - done, offset + done).catch((cause: Error) => {
        throw new UnreadableError(offset + done, length - done, cause.message);
      });
      if (bytesRead === 0) throw new UnreadableError(offset + done, length - done, "the file ended early");
      done += bytesRead;
    }
    return bytes;
  },
});
