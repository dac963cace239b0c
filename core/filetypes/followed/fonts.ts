import { u16be, u32be } from "../../bytes/layout.ts";
import type { FollowedType } from "../file-type.ts";
import { format } from "../format.ts";
import { ascii, some, within } from "./follow.ts";

const be16 = u16be(0);
const be32 = u32be(0);
const font = (name: string, media: string, endings = [name]) => format(name, "other", { endings, preview: "letters", media });
const ttf = font("ttf", "font/ttf");
const otf = font("otf", "font/otf");
const woff = font("woff", "font/woff");
const woff2 = font("woff2", "font/woff2");
const HEAD = 12;
const ENTRY = 16;
const MOST_TABLES = 96;

/** Fonts (OpenType 1.9 "Table Directory"; WOFF 1.0 §3, WOFF2 §4): a list of tables with their places, or a length of its own. */
export const fonts: FollowedType = {
  reach: "followed",
  formats: [ttf, otf, woff, woff2],
  firstBytes: [0, 0x4f, 0x77],
  beginsBytes: HEAD + ENTRY,
  begins(bytes, at) {
    if (ascii(bytes, at, "wOFF") || ascii(bytes, at, "wOF2")) return be32(bytes, at + 8) > HEAD;
    if (!ascii(bytes, at, "OTTO") && be32(bytes, at) !== 0x0001_0000) return false;
    const tables = be16(bytes, at + 4);
    // §: the search range is the largest power of two that is not above the number of tables, times sixteen.
    return tables > 3 && tables <= MOST_TABLES && be16(bytes, at + 6) === 16 * 2 ** Math.floor(Math.log2(tables));
  },
  narrow: async (content) => {
    const head = await some(content, 0, 4);
    return ascii(head, 0, "wOFF") ? woff : ascii(head, 0, "wOF2") ? woff2 : ascii(head, 0, "OTTO") ? otf : ttf;
  },
  async follow(content) {
    const head = await some(content, 0, HEAD);
    if (ascii(head, 0, "wOFF")) return within(woff, content, be32(head, 8));
    if (ascii(head, 0, "wOF2")) return within(woff2, content, be32(head, 8));
    const tables = await some(content, HEAD, be16(head, 4) * ENTRY);
    let end = 0;
    for (let at = 0; at + ENTRY <= tables.length; at += ENTRY) end = Math.max(end, be32(tables, at + 8) + be32(tables, at + 12));
    // Tables are filled up to four bytes.
    return end < HEAD + ENTRY ? null : within(ascii(head, 0, "OTTO") ? otf : ttf, content, Math.ceil(end / 4) * 4);
  },
};
