import type { FollowedType } from "../file-type.ts";
import { sound } from "../format.ts";
import { framesOf, overFrames } from "./frames.ts";

const aac = sound("aac", "audio/aac", ["aac", "adts"]);

/** ISO/IEC 13818-7 §6.2 (ADTS): 13 bits of frame length behind the sync word. */
const adtsFrame = (head: Uint8Array): number =>
  head.length >= 7 && head[0] === 0xff && (head[1] & 0xf6) === 0xf0 ? ((head[3] & 3) << 11) | (head[4] << 3) | (head[5] >> 5) : 0;
export const adts: FollowedType = {
  reach: "followed",
  formats: [aac],
  firstBytes: [0xff],
  byChance: true,
  beginsBytes: 7,
  begins: (bytes, at) => adtsFrame(bytes.subarray(at, at + 7)) >= 7,
  follow: async (content) => framesOf(aac, await overFrames(content, 0, adtsFrame)),
};
