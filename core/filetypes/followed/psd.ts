import { u16be, u32be } from "../../bytes/layout.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { FollowedType } from "../file-type.ts";
import { format } from "../format.ts";
import { ascii, brokenOff, some, within } from "./follow.ts";

const be16 = u16be(0);
const be32 = u32be(0);
const layered = format("psd", "photo", { endings: ["psd", "psb"], preview: "image", media: "image/x-psd" });
const HEAD = 26;
/** Sections behind the header that begin with their length: colours, resources, layers. */
const SECTIONS = 3;
/** The resource that is a small copy, as a JPEG behind a head of its own. */
const SMALL_COPY = 1036;
const COPY_HEAD = 28;
const MOST_RESOURCES = 4096;
const RAW = 0;
const PACKED_ROWS = 1;
const MOST_ROWS = 56 * 300_000;

/** "Adobe Photoshop File Formats Specification": sections with their lengths, then the picture, row by row. */
export const psd: FollowedType = {
  reach: "followed",
  formats: [layered],
  firstBytes: [0x38],
  beginsBytes: HEAD,
  begins: (bytes, at) => ascii(bytes, at, "8BPS\0\x01\0\0\0\0\0\0") && be16(bytes, at + 12) >= 1 && be16(bytes, at + 12) <= 56,
  async pixels(content) {
    const head = await some(content, 0, HEAD);
    return head.length < HEAD ? null : { width: be32(head, 18), height: be32(head, 14) };
  },
  async inner(source) {
    const content = windowSource(source);
    const colours = await some(content, HEAD, 4);
    if (colours.length < 4) return [];
    let at = HEAD + 4 + be32(colours, 0);
    const size = await some(content, at, 4);
    const end = at + 4 + (size.length === 4 ? be32(size, 0) : 0);
    at += 4;
    for (let resources = 0; resources < MOST_RESOURCES && at + 12 <= end; resources++) {
      const head = await some(content, at, 12 + 256);
      if (head.length < 12 || !ascii(head, 0, "8BIM")) return [];
      const name = 1 + head[6] + ((1 + head[6]) & 1);
      const length = be32(head, 6 + name);
      const data = at + 10 + name;
      if (be16(head, 4) === SMALL_COPY && length > COPY_HEAD) return [{ offset: data + COPY_HEAD, length: length - COPY_HEAD }];
      at = data + length + (length & 1);
    }
    return [];
  },
  async follow(source) {
    const content = windowSource(source);
    const head = await some(content, 0, HEAD);
    const [channels, height, width, depth] = [be16(head, 12), be32(head, 14), be32(head, 18), be16(head, 22)];
    if (width === 0 || height === 0 || width > 300_000 || height > 300_000 || ![1, 8, 16, 32].includes(depth)) return null;
    let at = HEAD;
    for (let section = 0; section < SECTIONS; section++) {
      const length = await some(content, at, 4);
      if (length.length < 4) return brokenOff(layered, content, at);
      at += 4 + be32(length, 0);
    }
    const how = await some(content, at, 2);
    if (how.length < 2) return brokenOff(layered, content, at);
    at += 2;
    const rows = channels * height;
    if (be16(how, 0) === RAW) return within(layered, content, at + rows * Math.ceil((width * depth) / 8));
    if (be16(how, 0) !== PACKED_ROWS || rows > MOST_ROWS) return brokenOff(layered, content, at);
    // How many bytes each row takes stands before all of them.
    let end = at + rows * 2;
    for (let row = 0; row < rows; ) {
      const counts = await some(content, at + row * 2, Math.min(64 * 1024, (rows - row) * 2));
      if (counts.length < 2) return brokenOff(layered, content, at + row * 2);
      for (let place = 0; place + 2 <= counts.length; place += 2, row++) end += be16(counts, place);
    }
    return within(layered, content, end);
  },
};
