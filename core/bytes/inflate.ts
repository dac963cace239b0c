import { Inflate } from "pako";

/** What deflated bytes (RFC 1951) stand in: nothing, zlib's frame (RFC 1950), gzip's (RFC 1952); each by the bits that say so to the inflater. */
const WINDOW_BITS = { deflate: -15, zlib: 15, gzip: 31 } as const;
export type PackedWith = keyof typeof WINDOW_BITS;

/** Packed bytes that are taken at once: 16 MiB come of them at most. */
const STEP = 16 * 1024;
const CHUNK = 64 * 1024;
/** Deflate packs a thousandfold at most (1032:1, RFC 1951 by its longest match): more than this beyond a first stretch is a trap. */
const MOST_PACKED = 250;
const ALWAYS_ALLOWED = 256 * 1024 * 1024;

/** Is so much out of so little made to fill a disk? */
export const isTrap = (packed: number, unpacked: number): boolean => unpacked > ALWAYS_ALLOWED && unpacked > packed * MOST_PACKED;
export const TRAP = `unpacks to more than ${MOST_PACKED} times its size: it is made to fill the disk, and was stopped`;

/** How a packed stream ended, after how many bytes of it and of what came out. */
export interface Ending {
  readonly how: "whole" | "broken" | "cut off" | "trap";
  readonly packed: number;
  readonly unpacked: number;
}

/** What the inflater knows of itself beyond what its types say. */
type Inflating = Inflate & {
  readonly ended: boolean;
  readonly strm: { readonly avail_in: number; readonly output: Uint8Array | null; readonly next_out: number };
};

/**
 * What comes out of packed bytes, piece by piece, as far as it goes; what stands behind the stream's end is not looked at. `ended` is told how it
 * ended after the last piece: nothing is thrown for what is packed badly. `isTooMuch`: it is followed no further, and ends as a trap.
 */
export async function* inflated(
  pieces: AsyncIterable<Uint8Array>,
  how: PackedWith,
  ended: (ending: Ending) => void,
  isTooMuch: (packed: number, unpacked: number) => boolean = isTrap,
): AsyncGenerator<Uint8Array> {
  let out: Uint8Array[] = [];
  const inflater = new Inflate({ windowBits: WINDOW_BITS[how], chunkSize: CHUNK }) as Inflating;
  inflater.onData = (piece) => void out.push(piece as Uint8Array);
  let packed = 0;
  let unpacked = 0;
  const taken = (): Uint8Array[] => {
    const all = out;
    out = [];
    for (const { length } of all) unpacked += length;
    return all;
  };
  /** What came out and fills no chunk yet: told only by a stream that ends well. */
  const rest = (): Uint8Array[] => {
    const { output, next_out } = inflater.strm;
    if (output && next_out > 0) out.push(output.subarray(0, next_out));
    return taken();
  };
  for await (const piece of pieces)
    for (let at = 0; at < piece.length; at += STEP) {
      const some = piece.subarray(at, at + STEP);
      inflater.push(some, false);
      packed += some.length - inflater.strm.avail_in;
      yield* taken();
      if (inflater.err !== 0) {
        yield* rest();
        ended({ how: "broken", packed, unpacked });
        return;
      }
      if (inflater.ended || isTooMuch(packed, unpacked)) {
        ended({ how: inflater.ended ? "whole" : "trap", packed, unpacked });
        return;
      }
    }
  yield* rest();
  ended({ how: "cut off", packed, unpacked });
}
