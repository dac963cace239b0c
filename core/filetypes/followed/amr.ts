import type { FollowedType } from "../file-type.ts";
import { sound } from "../format.ts";
import { ascii, some } from "./follow.ts";
import { framesOf, lastingFrames, overFrames } from "./frames.ts";

const narrowBand = sound("amr", "audio/amr");
const wideBand = sound("awb", "audio/amr-wb");

/** RFC 4867 §5.3: a frame's type is four bits of its first byte; bytes of each type. Bit 2: the frame is good; cleared space has none. */
const BYTES = {
  narrow: [13, 14, 16, 18, 20, 21, 27, 32, 6, 0, 0, 0, 0, 0, 0, 1],
  wide: [18, 24, 33, 37, 41, 47, 51, 59, 61, 6, 0, 0, 0, 0, 1, 1],
} as const;
const NARROW = "#!AMR\n";
const WIDE = "#!AMR-WB\n";
const isWide = (bytes: Uint8Array, at: number): boolean => ascii(bytes, at, WIDE);

/** Each frame is 20 ms of speech (RFC 4867 §3.1). */
const FRAME_SECONDS = 0.02;
const frameBytes = (wide: boolean) => (head: Uint8Array) =>
  head.length > 0 && (head[0] & 0x87) === 0x04 ? BYTES[wide ? "wide" : "narrow"][head[0] >> 3] : 0;

/** Speech of phones (RFC 4867 §5): a word at the beginning, then frames. */
export const amr: FollowedType = {
  reach: "followed",
  formats: [narrowBand, wideBand],
  firstBytes: [0x23],
  beginsBytes: 9,
  begins: (bytes, at) => ascii(bytes, at, NARROW) || isWide(bytes, at),
  narrow: async (content) => (isWide(await some(content, 0, 9), 0) ? wideBand : narrowBand),
  async seconds(content) {
    const wide = isWide(await some(content, 0, 9), 0);
    return lastingFrames(content, (wide ? WIDE : NARROW).length, frameBytes(wide), FRAME_SECONDS);
  },
  async follow(content) {
    const wide = isWide(await some(content, 0, 9), 0);
    return framesOf(wide ? wideBand : narrowBand, await overFrames(content, (wide ? WIDE : NARROW).length, frameBytes(wide)));
  },
};
