import { type Part, partsSource } from "../../bytes/parts-source.ts";
import type { ByteSource } from "../../bytes/source.ts";
import { BLOCK, padded } from "./layout.ts";
import { headerBlocks, type TarEntry } from "./write.ts";

/** A file that is to stand in an archive, with its content. */
export interface TarMember extends TarEntry {
  readonly content: ByteSource;
}

/** Two blocks of zeros close an archive. */
const CLOSING = 2 * BLOCK;

const zeros = (length: number): Part => ({ length, read: async (_, wanted) => new Uint8Array(wanted) });

/**
 * Files as the tar archive that they would make, without making it: headers are computed, content is read where it is.
 * Copied from start to end it is that archive, byte for byte; the order of members is kept.
 */
export function tarSource(name: string, members: readonly TarMember[]): ByteSource {
  const parts = members.flatMap(({ content, ...entry }): Part[] => {
    const head = headerBlocks(entry);
    return [
      { length: head.length, read: async (offset, length) => head.subarray(offset, offset + length) },
      { length: entry.size, read: (offset, length) => content.read(offset, length) },
      zeros(padded(entry.size) - entry.size),
    ];
  });
  return partsSource(name, [...parts, zeros(CLOSING)]);
}
