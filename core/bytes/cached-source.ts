import { type ByteSource, checkRange, UnreadableError } from "./source.ts";

/** Reads shorter than this are served from blocks of BLOCK bytes: headers are asked for a few bytes at a time. */
const SHORT = 64 * 1024;
const BLOCK = 64 * 1024;
/** Blocks where those are refused: one bad place lies in fewer of them. */
const SMALL_BLOCK = 4 * 1024;
/** Who reads on where the last piece ended is given ever larger ones, up to this: browsers take as long for small ones. */
const GROWTH = 4;
const USUAL: Keeping = { mostAhead: 4 * 1024 * 1024, pieces: 12 };

/** A source that says how much was really asked of the medium. */
export interface CountedSource extends ByteSource {
  /** Bytes read from the medium so far. */
  readonly bytesRead: number;
}

/** A source whose latest reads are at hand. */
export interface KeptSource extends CountedSource {
  /** The same as `read` for bytes that are at hand: nothing is waited for. Null: they are not. */
  peek(offset: number, length: number): Uint8Array | null;
}

/** How much is kept at hand. */
interface Keeping {
  /** Bytes of the largest piece that is read ahead. */
  readonly mostAhead: number;
  /** Pieces that are kept. */
  readonly pieces: number;
  /** The next piece is read while the last one is looked at: for what is gone through from end to end. */
  readonly oneAhead?: boolean;
}

interface Piece {
  readonly offset: number;
  readonly length: number;
  readonly bytes: Promise<Uint8Array>;
  /** The same once they are there. */
  now: Uint8Array | null;
}

/**
 * Keeps the latest reads at hand, so that the medium is asked in large pieces and rarely twice for the same one. `readAhead`: reads more than
 * was asked for, or throws UnreadableError where that is not to be had; then only what was asked for is read.
 */
export function cachedSource(
  source: ByteSource,
  readAhead = (offset: number, length: number) => source.read(offset, length),
  { mostAhead, pieces, oneAhead = false }: Keeping = USUAL,
): KeptSource {
  let kept: Piece[] = [];
  /** The blocks of that size that hold a request. */
  const blocksOf = (offset: number, length: number, block: number): { from: number; to: number } => ({
    from: Math.floor(offset / block) * block,
    to: Math.min(source.size, Math.ceil((offset + length) / block) * block),
  });
  let bytesRead = 0;
  let last = { end: -1, length: 0 };
  const fetch = (offset: number, length: number, how: (offset: number, length: number) => Promise<Uint8Array>): Promise<Uint8Array> => {
    const bytes = how(offset, length).then(
      (read) => {
        bytesRead += length;
        piece.now = read;
        return read;
      },
      (cause) => {
        kept = kept.filter((one) => one !== piece);
        throw cause;
      },
    );
    const piece: Piece = { offset, length, bytes, now: null };
    kept = [piece, ...kept.slice(0, pieces - 1)];
    last = { end: offset + length, length };
    return bytes;
  };
  const exactly = (offset: number, length: number) => fetch(offset, length, (from, bytes) => source.read(from, bytes));
  /** What is read for a request: at least the request itself. */
  const pieceFor = (offset: number, length: number): { from: number; to: number } => {
    const goesOn = offset <= last.end && offset + length > last.end && offset > last.end - last.length;
    if (goesOn && length < mostAhead) {
      const ahead = Math.min(mostAhead, last.length * GROWTH);
      return { from: offset, to: Math.min(source.size, offset + Math.max(length, ahead)) };
    }
    if (length >= SHORT) return { from: offset, to: offset + length };
    return blocksOf(offset, length, BLOCK);
  };
  /** Whoever has come to the last of pieces that grew as far as they do will want the next one. */
  const touch = ({ offset, length }: Piece): void => {
    if (!oneAhead || length < mostAhead || offset + length !== last.end || last.end >= source.size) return;
    // Where it cannot be read, whoever asks for it is told.
    fetch(last.end, Math.min(mostAhead, source.size - last.end), readAhead).catch(() => {});
  };
  return {
    name: source.name,
    size: source.size,
    get bytesRead() {
      return bytesRead;
    },
    peek(offset, length) {
      for (const piece of kept) {
        const within = offset - piece.offset;
        if (!piece.now || within < 0 || within + length > piece.length) continue;
        const bytes = piece.now.subarray(within, within + length);
        touch(piece);
        return bytes;
      }
      return null;
    },
    async read(offset, length) {
      checkRange(this, offset, length);
      if (length === 0) return new Uint8Array(0);
      for (const piece of kept) {
        const within = offset - piece.offset;
        if (within >= 0 && within + length <= piece.length) {
          // Whoever asked for the larger piece may be refused it: this one is asked for on its own then.
          const bytes = await piece.bytes.catch((cause: unknown) => {
            if (cause instanceof UnreadableError) return null;
            throw cause;
          });
          if (bytes) {
            touch(piece);
            return bytes.subarray(within, within + length);
          }
        }
      }
      // Where a piece holds a bad place, what was asked for may not.
      for (const { from, to } of [pieceFor(offset, length), blocksOf(offset, length, SMALL_BLOCK)]) {
        if (from === offset && to === offset + length) break;
        const bytes = await fetch(from, to - from, readAhead).catch((cause: unknown) => {
          if (cause instanceof UnreadableError) return null;
          throw cause;
        });
        if (bytes) return bytes.subarray(offset - from, offset - from + length);
      }
      return exactly(offset, length);
    },
  };
}
