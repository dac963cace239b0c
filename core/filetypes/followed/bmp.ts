import { u16, u32 } from "../../bytes/layout.ts";
import type { FollowedType } from "../file-type.ts";
import { picture } from "../format.ts";
import { ascii, some, within } from "./follow.ts";

const le16 = u16(0);
const le32 = u32(0);
/** The oldest header has sizes of two bytes; in the others a negative height says that rows go downwards. */
const OLDEST = 12;
const bitmap = picture("bmp", "image/bmp", ["bmp", "dib"]);

/** Windows bitmap: file size at byte 2, where pixels begin at byte 10, size of the header at byte 14 (common practice, no source). */
export const bmp: FollowedType = {
  reach: "followed",
  formats: [bitmap],
  firstBytes: [0x42],
  beginsBytes: 18,
  begins: (bytes, at) => ascii(bytes, at, "BM") && le32(bytes, at + 6) === 0 && [12, 40, 52, 56, 108, 124].includes(le32(bytes, at + 14)),
  async pixels(content) {
    const head = await some(content, 14, 12);
    if (head.length < 12) return null;
    if (le32(head, 0) === OLDEST) return { width: le16(head, 4), height: le16(head, 6) };
    return { width: Math.abs(le32(head, 4) | 0), height: Math.abs(le32(head, 8) | 0) };
  },
  async follow(content) {
    const head = await some(content, 0, 18);
    const length = le32(head, 2);
    return le32(head, 10) >= length || length < 26 ? null : within(bitmap, content, length);
  },
};
