import { type ByteSource, checkRange, UnreadableError } from "../../bytes/source.ts";
import { BLOCK, padded } from "./layout.ts";
import { headerBlocks, type TarEntry } from "./write.ts";

/** A file that is to stand in an archive, with its content. */
export interface TarMember extends TarEntry {
  readonly content: ByteSource;
}

interface Part {
  readonly at: number;
  readonly length: number;
  read(offset: number, length: number): Promise<Uint8Array>;
}

/** Two blocks of zeros close an archive. */
const CLOSING = 2 * BLOCK;

/**
 * Files as the tar archive that they would make, without making it: headers are computed, content is read where it is.
 * Copied from start to end it is that archive, byte for byte; the order of members is kept.
 */
export function tarSource(name: string, members: readonly TarMember[]): ByteSource {
  const parts: Part[] = [];
  let size = 0;
  const add = (length: number, read: Part["read"]) => {
    if (length > 0) parts.push({ at: size, length, read });
    size += length;
  };
  const zeros = async (_: number, length: number) => new Uint8Array(length);
  for (const { content, ...entry } of members) {
    const head = headerBlocks(entry);
    add(head.length, async (offset, length) => head.subarray(offset, offset + length));
    add(entry.size, (offset, length) => content.read(offset, length));
    add(padded(entry.size) - entry.size, zeros);
  }
  add(CLOSING, zeros);
  return {
    name,
    size,
    async read(offset, length) {
      checkRange(this, offset, length);
      const bytes = new Uint8Array(length);
      for (let filled = 0, index = partAt(parts, offset); filled < length; index++) {
        const part = parts[index];
        const from = offset + filled - part.at;
        const piece = await part.read(from, Math.min(part.length - from, length - filled)).catch((cause: unknown) => {
          if (!(cause instanceof UnreadableError)) throw cause;
          throw new UnreadableError(part.at + cause.offset, cause.length, cause.because, cause.forGood);
        });
        bytes.set(piece, filled);
        filled += piece.length;
      }
      return bytes;
    },
  };
}

/** The part that holds an offset: the last one that begins at or before it. */
function partAt(parts: readonly Part[], offset: number): number {
  let low = 0;
  let high = parts.length - 1;
  while (low < high) {
    const middle = Math.ceil((low + high) / 2);
    if (parts[middle].at <= offset) low = middle;
    else high = middle - 1;
  }
  return low;
}
