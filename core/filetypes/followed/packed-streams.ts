import { crc32Of } from "../../bytes/hash.ts";
import { inflated, type PackedWith } from "../../bytes/inflate.ts";
import { u16be, u32 } from "../../bytes/layout.ts";
import type { ByteSource } from "../../bytes/source.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { Followed, FollowedType } from "../file-type.ts";
import { type Format, packed } from "../format.ts";
import { ZeroWatch } from "./borne-out.ts";
import { ascii, brokenOff, some } from "./follow.ts";

const le32 = u32(0);
const be16 = u16be(0);
const gz = packed("gz", "application/gzip", ["gz", "tgz", "gzip"], "gzip");
const bz2 = packed("bz2", "application/x-bzip2", ["bz2", "tbz2"]);
const xzFormat = packed("xz", "application/x-xz", ["xz", "txz"]);

const STEP = 64 * 1024;
/** Packed bytes that are followed, and bytes that may come out of them: what takes more is followed no further. */
const MOST = 512 * 1024 * 1024;
const MOST_UNPACKED = 2 * 1024 * 1024 * 1024;

/** A content up to where nothing stands in it any more. */
async function* untilZeros(content: ByteSource): AsyncGenerator<Uint8Array> {
  const zeros = new ZeroWatch();
  for (let at = 0; at < Math.min(content.size, MOST); at += STEP) {
    const piece = await some(content, at, STEP);
    if (zeros.sees(piece)) return;
    yield piece;
  }
}

/** Where a packed stream ends. Nothing of what comes out is kept. @returns bytes, and whether it came to its end whole */
export async function inflatedEnd(content: ByteSource, how: PackedWith): Promise<{ length: number; ends: boolean }> {
  let told = { length: 0, ends: false };
  const pieces = inflated(
    untilZeros(content),
    how,
    (ending) => {
      const length = ending.how === "trap" ? Math.min(content.size, MOST) : ending.packed;
      told = { length, ends: ending.how === "whole" };
    },
    (_, unpacked) => unpacked >= MOST_UNPACKED,
  );
  for await (const _ of pieces);
  return told;
}

/** gzip (RFC 1952): unpacked to find its end; its check sum must agree. */
export const gzip: FollowedType = {
  reach: "followed",
  formats: [gz],
  firstBytes: [0x1f],
  beginsBytes: 10,
  begins: (bytes, at) => bytes[at + 1] === 0x8b && bytes[at + 2] === 8 && (bytes[at + 3] & 0xe0) === 0 && [0, 2, 4].includes(bytes[at + 8]),
  async follow(content) {
    const { length, ends } = await inflatedEnd(content, "gzip");
    return ends ? { format: gz, length, ends } : length < MOST_HEAD ? null : brokenOff(gz, content, length);
  },
};
/** A header that breaks off before this is chance. */
const MOST_HEAD = 64;

/** Looks through a content for where it ends: `endIn` says where, in bytes of the piece, of which the first `seen` were looked at before. */
async function sought(
  format: Format,
  content: ByteSource,
  overlap: number,
  endIn: (piece: Uint8Array, at: number) => number | null,
): Promise<Followed> {
  const zeros = new ZeroWatch();
  for (let at = 0; at < Math.min(content.size, MOST); at += STEP) {
    const piece = await some(content, at, STEP + overlap);
    if (zeros.sees(piece)) return brokenOff(format, content, at);
    const end = endIn(piece, at);
    if (end !== null) return { format, length: at + end, ends: true };
  }
  return brokenOff(format, content, MOST);
}

/** The 48 bits that end a stream, and those that begin each block (common practice: the format's author wrote no document). */
const BZIP2_END = [0x177245, 0x385090] as const;
const BZIP2_BLOCK = "\x31\x41\x59\x26\x53\x59";

/** bzip2: ended by 48 bits at any bit, and a check sum of 32 behind them. */
export const bzip2: FollowedType = {
  reach: "followed",
  formats: [bz2],
  firstBytes: [0x42],
  beginsBytes: 10,
  begins: (bytes, at) => ascii(bytes, at, "BZh") && bytes[at + 3] >= 0x31 && bytes[at + 3] <= 0x39 && ascii(bytes, at + 4, BZIP2_BLOCK),
  follow: (content) =>
    sought(bz2, windowSource(content), 12, (piece) => {
      let high = 0;
      let low = 0;
      for (let at = 0; at < piece.length; at++)
        for (let bit = 7; bit >= 0; bit--) {
          high = ((high << 1) | (low >> 23)) & 0xff_ffff;
          low = ((low << 1) | ((piece[at] >> bit) & 1)) & 0xff_ffff;
          if (high === BZIP2_END[0] && low === BZIP2_END[1]) {
            const bits = at * 8 + (8 - bit) + 32;
            return Math.ceil(bits / 8);
          }
        }
      return null;
    }),
};

/** "The .xz File Format" 1.2.1 §2.1.2: a check sum, the size of the index, flags, and two letters. */
const XZ_FOOTER = 12;

/** xz: its footer bears a check sum of its own and says the same flags as its header. */
export const xz: FollowedType = {
  reach: "followed",
  formats: [xzFormat],
  firstBytes: [0xfd],
  beginsBytes: 12,
  begins: (bytes, at) => ascii(bytes, at, "\xfd7zXZ\0") && crc32Of(bytes.subarray(at + 6, at + 8)) === le32(bytes, at + 8),
  async follow(source) {
    const content = windowSource(source);
    const flags = be16(await some(content, 6, 2), 0);
    return sought(xzFormat, content, XZ_FOOTER, (piece, at) => {
      // Everything in it stands at multiples of four bytes.
      for (let place = at === 0 ? XZ_FOOTER : 0; place + XZ_FOOTER <= piece.length; place += 4)
        if (
          piece[place + 10] === 0x59 &&
          piece[place + 11] === 0x5a &&
          be16(piece, place + 8) === flags &&
          crc32Of(piece.subarray(place + 4, place + 10)) === le32(piece, place)
        )
          return place + XZ_FOOTER;
      return null;
    });
  },
};
