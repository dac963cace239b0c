import type { ByteSource } from "./source.ts";

/** Reads up to `length` bytes at `at`: fewer at the end. */
export const some = (content: ByteSource, at: number, length: number): Promise<Uint8Array> =>
  content.read(Math.min(at, content.size), Math.max(0, Math.min(length, content.size - at)));

/** Bytes carried at a time. */
const PIECE = 1024 * 1024;

/** A content from byte `from` on, piece by piece. */
export async function* piecesFrom(content: ByteSource, from = 0, pieceBytes = PIECE): AsyncGenerator<Uint8Array> {
  for (let at = from; at < content.size; at += pieceBytes) yield content.read(at, Math.min(pieceBytes, content.size - at));
}
