import { type Extent, extentsSource, totalLength } from "../bytes/extents.ts";
import { type Ending, inflated, type PackedWith } from "../bytes/inflate.ts";
import { piecesFrom } from "../bytes/pieces.ts";
import { type ByteSource, checkRange, UnreadableError } from "../bytes/source.ts";
import { Turns } from "../work/turns.ts";
import type { Packing } from "./entry.ts";

/** A content that is packed in itself is kept whole up to so many bytes, so that it can be read from anywhere. */
const MOST_KEPT = 64 * 1024 * 1024;

/** How far a packed stream goes, and how it ends. Nothing of it is kept. */
export async function inflatedLength(content: ByteSource, how: PackedWith): Promise<Ending> {
  let ending: Ending = { how: "broken", packed: 0, unpacked: 0 };
  for await (const _ of inflated(piecesFrom(content), how, (told) => (ending = told)));
  return ending;
}

/** Where a content is stored, and how: as itself, or packed. */
export interface Stored {
  readonly extents: readonly Extent[];
  readonly packed?: Packing | null;
  /** Bytes of the content. */
  readonly size: number;
}

/** Bytes of a content: of one that is not packed those that are there, whatever its record says. */
export const contentBytes = ({ extents, packed, size }: Stored): number => (packed ? size : totalLength(extents));

/** One packed stream under way, and where in what comes out of it. */
class Stream {
  readonly key: string;
  readonly #pieces: AsyncIterator<Uint8Array>;
  #piece: Uint8Array = new Uint8Array(0);
  #within = 0;
  /** Byte of what comes out that comes next. */
  at = 0;

  constructor(key: string, content: ByteSource, how: PackedWith) {
    this.key = key;
    this.#pieces = inflated(piecesFrom(content), how, () => {})[Symbol.asyncIterator]();
  }

  /** Hands the next bytes to `take`, or throws them away. @returns how many there were: fewer than asked for at its end */
  async next(length: number, take: ((piece: Uint8Array, at: number) => void) | null): Promise<number> {
    let done = 0;
    while (done < length) {
      if (this.#within === this.#piece.length) {
        const { done: isOver, value } = await this.#pieces.next();
        if (isOver) break;
        this.#piece = value;
        this.#within = 0;
      }
      const part = Math.min(length - done, this.#piece.length - this.#within);
      take?.(this.#piece.subarray(this.#within, this.#within + part), done);
      this.#within += part;
      done += part;
    }
    this.at += done;
    return done;
  }
}

/**
 * The contents of finds on one source, packed ones unpacked while they are read. One stream is kept under way: who reads what lies in it in its order
 * unpacks it once. Going back begins it anew; small contents are kept whole, so that they can be read from anywhere.
 */
export class Contents {
  readonly source: ByteSource;
  readonly #turns = new Turns();
  #stream: Stream | null = null;

  constructor(source: ByteSource) {
    this.source = source;
  }

  /** The content as a source. @throws UnreadableError (from `read`) where what is packed ends before it should */
  of({ extents, packed, size }: Stored, name = this.source.name): ByteSource {
    if (!packed) return extentsSource(this.source, extents, name);
    let whole: Promise<Uint8Array> | null = null;
    const take = (at: number, length: number) => this.#turns.take(() => this.#take(extents, packed, at, length));
    return {
      name,
      size,
      async read(offset, length) {
        checkRange(this, offset, length);
        if (length === 0) return new Uint8Array(0);
        if (size > MOST_KEPT) return take(offset, length);
        whole ??= take(0, size);
        return (await whole).subarray(offset, offset + length);
      },
    };
  }

  /** Can this content be read from anywhere at no great cost? */
  static isAtHand = ({ packed, size }: Stored): boolean => !packed || size <= MOST_KEPT;

  async #take(extents: readonly Extent[], { with: how, skip }: Packing, at: number, length: number): Promise<Uint8Array> {
    const key = `${how} ${extents.map(({ offset, length: bytes }) => `${offset}+${bytes}`).join()}`;
    const from = skip + at;
    let stream = this.#stream;
    if (!stream || stream.key !== key || stream.at > from)
      stream = this.#stream = new Stream(key, extentsSource(this.source, extents), how);
    try {
      await stream.next(from - stream.at, null);
      const bytes = new Uint8Array(length);
      const got = await stream.next(length, (piece, place) => bytes.set(piece, place));
      if (got < length) throw new UnreadableError(at + got, length - got, "what is packed ends here");
      return bytes;
    } catch (cause) {
      this.#stream = null;
      throw cause;
    }
  }
}
