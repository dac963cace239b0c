import type { FollowedType } from "../file-type.ts";
import { sound } from "../format.ts";
import { some } from "./follow.ts";
import { framesOf, lastingFrames, overFrames } from "./frames.ts";

const aac = sound("aac", "audio/aac", ["aac", "adts"]);

/** ISO/IEC 13818-7 §6.2 (ADTS): 13 bits of frame length behind the sync word. */
const adtsFrame = (head: Uint8Array): number =>
  head.length >= 7 && head[0] === 0xff && (head[1] & 0xf6) === 0xf0 ? ((head[3] & 3) << 11) | (head[4] << 3) | (head[5] >> 5) : 0;
/** Samples of a second, by four bits of the head; a frame has 1,024 (§8.2.1.1, Table 35). */
const RATES = [96_000, 88_200, 64_000, 48_000, 44_100, 32_000, 24_000, 22_050, 16_000, 12_000, 11_025, 8000, 7350];
const SAMPLES = 1024;

export const adts: FollowedType = {
  reach: "followed",
  formats: [aac],
  firstBytes: [0xff],
  byChance: true,
  beginsBytes: 7,
  begins: (bytes, at) => adtsFrame(bytes.subarray(at, at + 7)) >= 7,
  async seconds(content) {
    const rate = RATES[((await some(content, 2, 1))[0] >> 2) & 15];
    return rate === undefined ? null : lastingFrames(content, 0, adtsFrame, SAMPLES / rate);
  },
  follow: async (content) => framesOf(aac, await overFrames(content, 0, adtsFrame)),
};
