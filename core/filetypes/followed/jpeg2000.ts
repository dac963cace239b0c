import { u16be, u32be } from "../../bytes/layout.ts";
import type { ByteSource } from "../../bytes/source.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { FollowedType, Pixels } from "../file-type.ts";
import { picture } from "../format.ts";
import { boxAt, boxWithin } from "./boxes.ts";
import { brokenOff, MAX_STEPS, some, within } from "./follow.ts";

const be16 = u16be(0);
const be32 = u32be(0);
const inBoxes = picture("jp2", "image/jp2", ["jp2", "jpf", "jpx"]);
const bare = picture("j2k", "image/x-jp2-codestream", ["j2k", "j2c", "jpc"]);
/** ISO/IEC 15444-1 Annex A: markers of a codestream. */
const Code = { start: 0xff4f, size: 0xff51, tilePart: 0xff90, end: 0xffd9 } as const;
/** Annex I.5.1: the signature box. */
const SIGNATURE = [0, 0, 0, 12, 0x6a, 0x50, 0x20, 0x20, 0x0d, 0x0a, 0x87, 0x0a];

/** Where a codestream ends: marker segments with their lengths, tile parts with theirs. */
async function codestreamEnd(content: ByteSource, from: number): Promise<{ at: number; ends: boolean }> {
  let at = from + 2;
  for (let steps = 0; steps < MAX_STEPS; steps++) {
    const head = await some(content, at, 12);
    if (head.length < 2) return { at, ends: false };
    const code = be16(head, 0);
    if (code === Code.end) return { at: at + 2, ends: true };
    if (code < 0xff00 || head.length < 4) return { at, ends: false };
    const length = code === Code.tilePart && head.length >= 10 ? be32(head, 6) : 2 + be16(head, 2);
    // A tile part of length 0 goes on to the end of the codestream: its marker is sought.
    if (length < 4) return soughtEnd(content, at);
    if (at + length > content.size) return { at: content.size, ends: false };
    at += length;
  }
  return { at, ends: false };
}

/** Annex A.5.1: the size marker comes second; its picture lies between an offset and an end. */
async function codestreamPixels(content: ByteSource, from: number): Promise<Pixels | null> {
  const size = await some(content, from + 2, 22);
  if (size.length < 22 || be16(size, 0) !== Code.size) return null;
  return { width: be32(size, 6) - be32(size, 14), height: be32(size, 10) - be32(size, 18) };
}

const STEP = 256 * 1024;
const MOST = 256 * 1024 * 1024;
/** Within packets FF is followed by at most 8F (Annex B.10.1), so the end marker stands for itself. */
async function soughtEnd(content: ByteSource, from: number): Promise<{ at: number; ends: boolean }> {
  for (let at = from; at < content.size && at - from < MOST; at += STEP) {
    const bytes = await some(content, at, STEP + 1);
    for (let found = bytes.indexOf(0xff); found >= 0 && found + 1 < bytes.length; found = bytes.indexOf(0xff, found + 1))
      if (bytes[found + 1] === 0xd9) return { at: at + found + 2, ends: true };
  }
  return { at: from, ends: false };
}

/** JPEG 2000 (ISO/IEC 15444-1): boxes around a codestream, or the codestream alone. */
export const jpeg2000: FollowedType = {
  reach: "followed",
  formats: [inBoxes, bare],
  firstBytes: [0, 0xff],
  beginsBytes: 12,
  begins: (bytes, at) =>
    bytes[at] === 0
      ? SIGNATURE.every((byte, index) => bytes[at + index] === byte)
      : be16(bytes, at) === Code.start && be16(bytes, at + 2) === Code.size,
  narrow: async (content) => ((await some(content, 0, 1))[0] === 0 ? inBoxes : bare),
  async pixels(content) {
    if ((await some(content, 0, 1))[0] !== 0) return codestreamPixels(content, 0);
    // Annex I.5.3.1: height before width.
    const header = await boxWithin(content, ["jp2h", "ihdr"]);
    const sides = header ? await some(content, header.at + header.head, 8) : null;
    return sides?.length === 8 ? { width: be32(sides, 4), height: be32(sides, 0) } : null;
  },
  async follow(source) {
    const content = windowSource(source);
    if ((await some(content, 0, 1))[0] !== 0) {
      const { at, ends } = await codestreamEnd(content, 0);
      return ends ? within(bare, content, at) : brokenOff(bare, content, at);
    }
    let at = 0;
    let holds = false;
    for (let steps = 0; steps < MAX_STEPS; steps++) {
      const box = await boxAt(content, at);
      if (!box || !/^[\x20-\x7e]{4}$/.test(box.type)) break;
      holds ||= box.type === "jp2c";
      if (box.size === null) {
        const { at: end, ends } = await codestreamEnd(content, at + box.head);
        return ends ? within(inBoxes, content, end) : brokenOff(inBoxes, content, end);
      }
      at += box.size;
      if (at > content.size) return brokenOff(inBoxes, content, at);
    }
    return holds ? { format: inBoxes, length: at, ends: true } : null;
  },
};
