import { u32be } from "../../bytes/layout.ts";
import type { FollowedType } from "../file-type.ts";
import { sound } from "../format.ts";
import { ascii, some, within } from "./follow.ts";

const be32 = u32be(0);
const aif = sound("aiff", "audio/aiff", ["aiff", "aif", "aifc"]);

/** "Audio Interchange File Format" 1.3: a FORM with its size, of the form AIFF or AIFC. */
export const aiff: FollowedType = {
  reach: "followed",
  formats: [aif],
  firstBytes: [0x46],
  beginsBytes: 12,
  begins: (bytes, at) => ascii(bytes, at, "FORM") && (ascii(bytes, at + 8, "AIFF") || ascii(bytes, at + 8, "AIFC")),
  async follow(content) {
    const length = be32(await some(content, 4, 4), 0) + 8;
    return length < 20 ? null : within(aif, content, length + (length & 1));
  },
};
