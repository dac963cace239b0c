import { u32 } from "../../bytes/layout.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { FollowedType } from "../file-type.ts";
import { sound } from "../format.ts";
import { apeTagBytes } from "./ape-tag.ts";
import { ascii, brokenOff, overParts } from "./follow.ts";

const le32 = u32(0);
const packed = sound("wavpack", "audio/x-wavpack", ["wv"]);
const HEAD = 32;
/** "WavPack 4 & 5 Binary File / Block Format": a block of more is none. */
const MOST_BLOCK = 1024 * 1024 * 2;

/** WavPack: blocks with their sizes; each says which of all samples it begins with, and how many there are in all. */
export const wavpack: FollowedType = {
  reach: "followed",
  formats: [packed],
  firstBytes: [0x77],
  beginsBytes: HEAD,
  begins: (bytes, at) =>
    ascii(bytes, at, "wvpk") && le32(bytes, at + 4) >= HEAD - 8 && le32(bytes, at + 4) < MOST_BLOCK && bytes[at + 9] === 4,
  async follow(source) {
    const content = windowSource(source);
    let total = 0;
    let reached = 0;
    const { length: blocks, parts } = await overParts(content, 0, HEAD, (head, at) => {
      if (head.length < HEAD || !ascii(head, 0, "wvpk") || le32(head, 4) >= MOST_BLOCK) return null;
      if (at === 0) total = le32(head, 12);
      // The first block of the next recording: this one has ended.
      if (at > 0 && le32(head, 16) === 0 && le32(head, 12) !== total) return null;
      reached = Math.max(reached, le32(head, 16) + le32(head, 20));
      return { bytes: 8 + le32(head, 4) };
    });
    if (parts === 0) return null;
    const length = blocks + (await apeTagBytes(content, blocks));
    return reached >= total || total === 0xffff_ffff ? { format: packed, length, ends: true } : brokenOff(packed, content, length);
  },
};
