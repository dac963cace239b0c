import { u16, u32, u32be } from "../../bytes/layout.ts";
import type { FollowedType } from "../file-type.ts";
import { picture } from "../format.ts";
import { some, within } from "./follow.ts";

const le16 = u16(0);
const le32 = u32(0);
const be32 = u32be(0);
const icons = picture("ico", "image/x-icon", ["ico", "cur"]);
const HEAD = 6;
const ENTRY = 16;
const MOST_PICTURES = 64;
const BITMAP_HEAD = 40;
const PNG = 0x474e_5089;

/** Icons (common practice, no source): a list of pictures, each with its place and size; a bitmap's header or a PNG begins there. */
export const icon: FollowedType = {
  reach: "followed",
  formats: [icons],
  firstBytes: [0],
  beginsBytes: HEAD + ENTRY,
  begins(bytes, at) {
    const count = le16(bytes, at + 4);
    if (bytes[at + 1] !== 0 || (bytes[at + 2] !== 1 && bytes[at + 2] !== 2) || bytes[at + 3] !== 0 || count === 0 || count > MOST_PICTURES)
      return false;
    // The first picture begins right behind the list.
    return bytes[at + HEAD + 3] === 0 && le32(bytes, at + HEAD + 12) === HEAD + count * ENTRY && le32(bytes, at + HEAD + 8) > BITMAP_HEAD;
  },
  async pixels(content) {
    const list = await some(content, HEAD, Math.min(MOST_PICTURES, le16(await some(content, 4, 2), 0)) * ENTRY);
    let largest = { width: 0, height: 0 };
    for (let at = 0; at + ENTRY <= list.length; at += ENTRY) {
      // One byte holds no 256: that is written as 0. A PNG in it says itself how large it is.
      const png = await some(content, le32(list, at + 12), 24);
      const own = png.length === 24 && le32(png, 0) === PNG ? { width: be32(png, 16), height: be32(png, 20) } : null;
      const one = own ?? { width: list[at] || 256, height: list[at + 1] || 256 };
      if (one.width * one.height > largest.width * largest.height) largest = one;
    }
    return largest.width > 0 ? largest : null;
  },
  async follow(content) {
    const count = le16(await some(content, 4, 2), 0);
    const list = await some(content, HEAD, count * ENTRY);
    if (list.length < count * ENTRY) return null;
    let end = 0;
    for (let at = 0; at < list.length; at += ENTRY) {
      const place = le32(list, at + 12);
      const begins = await some(content, place, 4);
      if (begins.length < 4 || ![BITMAP_HEAD, PNG].includes(le32(begins, 0))) return null;
      end = Math.max(end, place + le32(list, at + 8));
    }
    return within(icons, content, end);
  },
};
