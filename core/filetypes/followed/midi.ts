import { u16be, u32be } from "../../bytes/layout.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { FollowedType } from "../file-type.ts";
import { format } from "../format.ts";
import { ascii, brokenOff, overParts, some } from "./follow.ts";

const be16 = u16be(0);
const be32 = u32be(0);
const notes = format("midi", "audio", { endings: ["mid", "midi", "kar"], media: "audio/midi" });
const HEAD = 14;

/** "Standard MIDI Files 1.0": a header that says how many tracks follow, each with its length. */
export const midi: FollowedType = {
  reach: "followed",
  formats: [notes],
  firstBytes: [0x4d],
  beginsBytes: HEAD,
  begins: (bytes, at) => ascii(bytes, at, "MThd") && be32(bytes, at + 4) === 6 && be16(bytes, at + 8) <= 2,
  async follow(source) {
    const content = windowSource(source);
    const tracks = be16(await some(content, 10, 2), 0);
    let met = 0;
    const { length, ends } = await overParts(content, HEAD, 8, (head) =>
      head.length < 8 || !ascii(head, 0, "MTrk") ? null : { bytes: 8 + be32(head, 4), last: ++met === tracks },
    );
    return ends ? { format: notes, length, ends } : brokenOff(notes, content, length);
  },
};
