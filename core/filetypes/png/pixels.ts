import { Unzlib } from "fflate";
import type { ImageHeader } from "./layout.ts";

/** Table 11.1: bit depths that each colour type allows; §6.1: samples of a pixel. */
const COLOUR_TYPES: Readonly<Record<number, { readonly depths: readonly number[]; readonly samples: number }>> = {
  0: { depths: [1, 2, 4, 8, 16], samples: 1 },
  2: { depths: [8, 16], samples: 3 },
  3: { depths: [1, 2, 4, 8], samples: 1 },
  4: { depths: [8, 16], samples: 2 },
  6: { depths: [8, 16], samples: 4 },
};
export const PALETTE = 3;
/** §8.2, Adam7: where each pass begins and how far it steps, across and down. */
const PASSES = [
  [0, 0, 8, 8],
  [4, 0, 8, 8],
  [0, 4, 4, 8],
  [2, 0, 4, 4],
  [0, 2, 2, 4],
  [1, 0, 2, 2],
  [0, 1, 1, 2],
] as const;
/** RFC 1951 cannot pack more than this many bytes into one (258 bytes in two bits). */
const MOST_PACKED = 1032;
/** Unpacked bytes that are counted: what claims more is held against MOST_PACKED alone. */
const MOST_COUNTED = 1024 * 1024 * 1024;
/** Packed bytes taken at a time, first and at least; and how many may come out of them: a few bytes can hold millions. */
const PIECE = { first: 8 * 1024, least: 512, most: 32 * 1024, unpacked: 256 * 1024 };

/** What IHDR says (§11.2.2). */
export type Header = Pick<
  { [Field in keyof typeof ImageHeader]: number },
  "width" | "height" | "bitDepth" | "colourType" | "compression" | "filter" | "interlace"
>;

/** Why no PNG can have this header, or null. */
export function headerRefusal({ width, height, bitDepth, colourType, compression, filter, interlace }: Header): string | null {
  if (width === 0 || height === 0 || width > 0x7fff_ffff || height > 0x7fff_ffff) return "its header gives it no size that can be";
  if (!COLOUR_TYPES[colourType]?.depths.includes(bitDepth)) return "its header gives it colours that no PNG has";
  return compression === 0 && filter === 0 && interlace <= 1 ? null : "its header asks for a way of packing that no PNG has";
}

/** Bytes of the unpacked picture: a filter byte before each row, rows in whole bytes (§7.2); of seven passes where it is interlaced. */
function unpackedBytes({ width, height, bitDepth, colourType, interlace }: Header): number {
  const bits = (COLOUR_TYPES[colourType]?.samples ?? 1) * bitDepth;
  const rows = (across: number, down: number) => (across === 0 ? 0 : down * (1 + Math.ceil((across * bits) / 8)));
  if (interlace === 0) return rows(width, height);
  return PASSES.reduce(
    (sum, [x, y, across, down]) => sum + rows(Math.max(0, Math.ceil((width - x) / across)), Math.max(0, Math.ceil((height - y) / down))),
    0,
  );
}

/** Counts what a PNG's picture data really unpack to: check sums say that they arrived, not that they are a whole picture. */
export class PictureData {
  readonly #expected: number;
  #packed = 0;
  #unpacked = 0;
  #broken = false;
  #piece = PIECE.first;
  readonly #unpacking: Unzlib | null;

  constructor(header: Header) {
    this.#expected = unpackedBytes(header);
    this.#unpacking = this.#expected > MOST_COUNTED ? null : new Unzlib((piece) => void (this.#unpacked += piece.length));
  }

  take(bytes: Uint8Array): void {
    this.#packed += bytes.length;
    if (!this.#unpacking || this.#broken) return;
    try {
      for (let at = 0; at < bytes.length && this.#unpacked < this.#expected; ) {
        const before = this.#unpacked;
        const piece = bytes.subarray(at, at + this.#piece);
        this.#unpacking.push(piece, false);
        at += piece.length;
        const grownBy = Math.max(1, (this.#unpacked - before) / piece.length);
        this.#piece = Math.max(PIECE.least, Math.min(PIECE.most, Math.floor(PIECE.unpacked / grownBy)));
      }
    } catch {
      this.#broken = true;
    }
  }

  get isBroken(): boolean {
    return this.#broken;
  }

  /** Part of the picture that is there: 0 to 1. */
  get part(): number {
    const there = this.#unpacking ? this.#unpacked : this.#packed * MOST_PACKED;
    return Math.min(1, there / this.#expected);
  }

  /** Why it is not a whole picture, or null. */
  get lack(): string | null {
    if (this.part === 1) return null;
    const percent = `${Math.floor(this.part * 100)} %`;
    return this.#broken
      ? `its picture data do not unpack beyond ${percent} of the picture`
      : `its picture data make up ${percent} of the picture that its header names`;
  }
}
