import { u32be } from "../../bytes/layout.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { FollowedType } from "../file-type.ts";
import { film } from "../format.ts";
import { ascii, brokenOff, overParts, some } from "./follow.ts";

const be32 = u32be(0);
const flash = film("flv", "video/x-flv");
const HEAD = 9;
/** Bytes of the size of the tag before, and of a tag's own head. */
const BEFORE = 4;
const TAG = 11;
/** Kinds of tags: sound, picture, script data. */
const KINDS = [8, 9, 18];

/** §E.5, onMetaData: the name of a value behind two bytes of its length, then a byte of its kind (0: a number) and eight of the number. */
const DURATION = "\0\x08duration\0";
const MOST_SCRIPT = 4096;

/** "Adobe Flash Video File Format Specification" 10.1 Annex E: tags, each behind the size of the one before it. */
export const flv: FollowedType = {
  reach: "followed",
  formats: [flash],
  firstBytes: [0x46],
  beginsBytes: HEAD + BEFORE,
  begins: (bytes, at) =>
    ascii(bytes, at, "FLV\x01") && (bytes[at + 4] & 0xfa) === 0 && be32(bytes, at + 5) === HEAD && be32(bytes, at + HEAD) === 0,
  async seconds(content) {
    const head = await some(content, 0, MOST_SCRIPT);
    for (let at = 0; at + DURATION.length + 8 <= head.length; at++)
      if (ascii(head, at, DURATION)) return new DataView(head.buffer, head.byteOffset + at + DURATION.length, 8).getFloat64(0);
    return null;
  },
  async follow(source) {
    const content = windowSource(source);
    let before = 0;
    const { length, parts } = await overParts(content, HEAD, BEFORE + TAG, (head) => {
      if (head.length < BEFORE + TAG || be32(head, 0) !== before || !KINDS.includes(head[BEFORE] & 0x1f)) return null;
      const size = TAG + ((head[5] << 16) | (head[6] << 8) | head[7]);
      before = size;
      return { bytes: BEFORE + size };
    });
    if (parts === 0) return null;
    // The size of the last tag stands behind it: then it was written to its end.
    const tail = await content.read(Math.min(length, content.size), Math.max(0, Math.min(BEFORE, content.size - length)));
    return tail.length === BEFORE && be32(tail, 0) === before
      ? { format: flash, length: length + BEFORE, ends: true }
      : brokenOff(flash, content, length);
  },
};
