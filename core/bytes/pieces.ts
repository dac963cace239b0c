import type { ByteSource } from "./source.ts";

/** Bytes carried at a time. */
const PIECE = 1024 * 1024;

/** A content from byte `from` on, piece by piece. */
export async function* piecesFrom(content: ByteSource, from = 0, pieceBytes = PIECE): AsyncGenerator<Uint8Array> {
  for (let at = from; at < content.size; at += pieceBytes) yield content.read(at, Math.min(pieceBytes, content.size - at));
}
