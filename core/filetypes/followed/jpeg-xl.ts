import { windowSource } from "../../bytes/window-source.ts";
import type { FollowedType, Pixels } from "../file-type.ts";
import { picture } from "../format.ts";
import { boxAt, boxWithin } from "./boxes.ts";
import { brokenOff, MAX_STEPS, some } from "./follow.ts";

const jxl = picture("jxl", "image/jxl");
/** ISO/IEC 18181-2 §9.1: the signature box. A codestream without boxes begins with two bytes that tell nothing. */
const SIGNATURE = [0, 0, 0, 12, 0x4a, 0x58, 0x4c, 0x20, 0x0d, 0x0a, 0x87, 0x0a];
const BOXES = new Set(["JXL ", "ftyp", "jxlc", "jxlp", "jxll", "jxli", "jbrd", "Exif", "xml ", "jumb", "brob", "jhgm"]);

/** Bits of a codestream, lowest first (ISO/IEC 18181-1 §B.1). */
class Bits {
  readonly #bytes: Uint8Array;
  #at = 0;

  constructor(bytes: Uint8Array) {
    this.#bytes = bytes;
  }

  take(count: number): number {
    let value = 0;
    for (let bit = 0; bit < count; bit++, this.#at++) value += ((this.#bytes[this.#at >> 3] >> (this.#at & 7)) & 1) * 2 ** bit;
    return value;
  }
}

/** Bits of a side, by two bits before it; and the sides' ratios (ISO/IEC 18181-1 §D.2, size header). */
const SIDE_BITS = [9, 13, 18, 30];
const RATIOS = [
  [1, 1],
  [12, 10],
  [4, 3],
  [3, 2],
  [16, 9],
  [5, 4],
  [2, 1],
] as const;
const HEADER_BYTES = 12;

/** The size header right behind the two bytes that a codestream begins with. */
function codestreamPixels(bytes: Uint8Array): Pixels | null {
  if (bytes.length < HEADER_BYTES || bytes[0] !== 0xff || bytes[1] !== 0x0a) return null;
  const bits = new Bits(bytes.subarray(2));
  const isSmall = bits.take(1) === 1;
  const side = () => (isSmall ? (bits.take(5) + 1) * 8 : bits.take(SIDE_BITS[bits.take(2)]) + 1);
  const height = side();
  const ratio = bits.take(3);
  if (ratio === 0) return { height, width: side() };
  const [across, down] = RATIOS[ratio - 1];
  return { height, width: Math.floor((height * across) / down) };
}

/** JPEG XL (ISO/IEC 18181-2): boxes; one that goes on to the end of the file has no end that could be followed. */
export const jpegXl: FollowedType = {
  reach: "followed",
  formats: [jxl],
  firstBytes: [0],
  beginsBytes: 12,
  begins: (bytes, at) => SIGNATURE.every((byte, index) => bytes[at + index] === byte),
  async pixels(content) {
    const whole = await boxWithin(content, ["jxlc"]);
    // The first of several parts begins with its number.
    const part = whole ?? (await boxWithin(content, ["jxlp"]));
    return part ? codestreamPixels(await some(content, part.at + part.head + (whole ? 0 : 4), HEADER_BYTES)) : null;
  },
  async follow(source) {
    const content = windowSource(source);
    let at = 0;
    let holds = false;
    for (let steps = 0; steps < MAX_STEPS; steps++) {
      const box = await boxAt(content, at);
      if (!box || !BOXES.has(box.type)) break;
      holds ||= box.type.startsWith("jxl");
      if (box.size === null || at + box.size > content.size) return brokenOff(jxl, content, content.size);
      at += box.size;
    }
    return holds ? { format: jxl, length: at, ends: true } : null;
  },
};
