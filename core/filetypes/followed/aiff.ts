import { u16be, u32be } from "../../bytes/layout.ts";
import type { FollowedType } from "../file-type.ts";
import { sound } from "../format.ts";
import { ascii, some, within } from "./follow.ts";

const be32 = u32be(0);
const be16 = u16be(0);
const MAX_CHUNKS = 64;
/** Bytes of the common chunk: its head, channels, frames, bits of a sample, rate. */
const COMMON = 26;
const aif = sound("aiff", "audio/aiff", ["aiff", "aif", "aifc"]);

/** "Audio Interchange File Format" 1.3: a FORM with its size, of the form AIFF or AIFC. */
export const aiff: FollowedType = {
  reach: "followed",
  formats: [aif],
  firstBytes: [0x46],
  beginsBytes: 12,
  begins: (bytes, at) => ascii(bytes, at, "FORM") && (ascii(bytes, at + 8, "AIFF") || ascii(bytes, at + 8, "AIFC")),
  async seconds(content) {
    let at = 12;
    for (let chunks = 0; chunks < MAX_CHUNKS; chunks++) {
      const chunk = await some(content, at, COMMON);
      if (chunk.length < COMMON) return null;
      // A real of 80 bits ("IEEE Standard 754", extended): one of sign, fifteen of the exponent, then the fraction with its first bit.
      if (ascii(chunk, 0, "COMM")) return be32(chunk, 10) / (be32(chunk, 18) * 2 ** ((be16(chunk, 16) & 0x7fff) - 16_383 - 31));
      const size = be32(chunk, 4);
      at += 8 + size + (size & 1);
    }
    return null;
  },
  async follow(content) {
    const length = be32(await some(content, 4, 4), 0) + 8;
    return length < 20 ? null : within(aif, content, length + (length & 1));
  },
};
