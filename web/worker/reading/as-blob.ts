import { contentBytes, type Stored } from "../../../core/archives/stream.ts";
import { HOLE } from "../../../core/bytes/extents.ts";
import { piecesFrom } from "../../../core/bytes/pieces.ts";
import { holed, type RangeSet } from "../../../core/bytes/ranges.ts";
import type { ByteSource } from "../../../core/bytes/source.ts";

/** Bytes that are read into memory of the browser where a content cannot be had as parts of a file. */
export const MOST_COPIED = 256 * 1024 * 1024;
const PIECE_OF_ZEROS = new Blob([new Uint8Array(64 * 1024)]);

/** So many zeros, of which hardly any lie in memory. */
function zeros(length: number): Blob {
  let doubled = PIECE_OF_ZEROS;
  while (doubled.size < length) doubled = new Blob([doubled, doubled]);
  return doubled.slice(0, length);
}

/**
 * A content as a Blob of parts of the file that it lies in: nothing is read, nothing copied, and a player reads what it wants. Places that are known
 * not to read are zeros. Null: what lies there is packed.
 */
export function asParts({ extents, packed }: Stored, file: Blob, unreadable: RangeSet, media: string): Blob | null {
  if (packed) return null;
  const parts = holed(extents, unreadable).map(({ offset, length }) =>
    offset === HOLE ? zeros(length) : file.slice(offset, offset + length),
  );
  return new Blob(parts, { type: media });
}

/** A content read into a Blob. Null: it is too large for that. */
export async function asCopy(stored: Stored, content: ByteSource, media: string): Promise<Blob | null> {
  if (contentBytes(stored) > MOST_COPIED) return null;
  const parts: Uint8Array[] = [];
  // A piece is a view of what was read, which is kept only as long as it is looked at.
  for await (const piece of piecesFrom(content)) parts.push(piece.slice());
  return new Blob(parts as BlobPart[], { type: media });
}
