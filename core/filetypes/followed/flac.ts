import { u16be } from "../../bytes/layout.ts";
import type { ByteSource } from "../../bytes/source.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { FollowedType } from "../file-type.ts";
import { sound } from "../format.ts";
import { ascii, brokenOff, some } from "./follow.ts";

const lossless = sound("flac", "audio/flac");
const be16 = u16be(0);
/** RFC 9639 §8.1: one bit that says "the last block", seven of its type, 24 of its length. */
const BLOCK_HEAD = 4;
const MAX_BLOCKS = 256;
const STREAMINFO = 0;
const MAX_FRAMES = 4_000_000;
/** The longest frame that is looked through where the stream does not say how long its longest one is. */
const MOST_FRAME = 1024 * 1024;
/** Bytes of the longest frame header (§9.1). */
const FRAME_HEAD = 16;

/** Check sums of frames (§9.1.8, §9.3): 8 bits over the header, x^8+x^2+x+1; 16 bits over all of it, x^16+x^15+x^2+1. */
const table = (bits: number, polynomial: number): Uint16Array =>
  Uint16Array.from({ length: 256 }, (_, byte) => {
    let sum = byte << (bits - 8);
    for (let bit = 0; bit < 8; bit++) sum = ((sum << 1) ^ ((sum >> (bits - 1)) & 1 ? polynomial : 0)) & (2 ** bits - 1);
    return sum;
  });
const CRC8 = table(8, 0x07);
const CRC16 = table(16, 0x8005);

/** §9.1.1–9.1.4: block sizes and what stands behind the coded number. @returns samples of the frame, or 0 where none begins */
function frameSamples(bytes: Uint8Array, at: number): number {
  if (bytes[at] !== 0xff || (bytes[at + 1] & 0xfe) !== 0xf8 || at + FRAME_HEAD > bytes.length) return 0;
  const size = bytes[at + 2] >> 4;
  const rate = bytes[at + 2] & 15;
  if (size === 0 || rate === 15 || (bytes[at + 3] & 1) !== 0) return 0;
  const first = bytes[at + 4];
  const coded = first < 0x80 ? 1 : Math.clz32(~(first << 24) >>> 0);
  if (coded > 7 || (first >= 0x80 && coded < 2)) return 0;
  let next = at + 4 + coded;
  let samples = 0;
  if (size === 1) samples = 192;
  else if (size <= 5) samples = 576 << (size - 2);
  else if (size === 6) samples = bytes[next++] + 1;
  else if (size === 7) {
    samples = be16(bytes, next) + 1;
    next += 2;
  } else samples = 256 << (size - 8);
  next += rate === 12 ? 1 : rate === 13 || rate === 14 ? 2 : 0;
  let sum = 0;
  for (let place = at; place < next; place++) sum = CRC8[sum ^ bytes[place]];
  return sum === bytes[next] ? samples : 0;
}

interface Stream {
  readonly begins: number;
  readonly samples: number;
  /** Samples of each second. */
  readonly rate: number;
  readonly leastFrame: number;
  readonly mostFrame: number;
}

/** The metadata blocks (§8): what the stream says of itself, and where its frames begin. */
async function readBlocks(content: ByteSource): Promise<Stream | null> {
  let at = 4;
  let stream: Omit<Stream, "begins"> | null = null;
  for (let blocks = 0; blocks < MAX_BLOCKS; blocks++) {
    const head = await some(content, at, BLOCK_HEAD + 34);
    if (head.length < BLOCK_HEAD) return null;
    const type = head[0] & 0x7f;
    const length = (head[1] << 16) | be16(head, 2);
    if ((blocks === 0) !== (type === STREAMINFO)) return null;
    if (type === STREAMINFO) {
      if (length !== 34 || head.length < BLOCK_HEAD + 34) return null;
      const of24 = (place: number) => (head[place] << 16) | be16(head, place + 1);
      // §8.2: smallest and largest frame; 36 bits of samples behind rate, channels and depth.
      const samples = (head[17] & 15) * 2 ** 32 + (be16(head, 18) * 65_536 + be16(head, 20));
      const rate = (head[14] << 12) | (head[15] << 4) | (head[16] >> 4);
      stream = { rate, leastFrame: of24(8), mostFrame: of24(11) || MOST_FRAME, samples };
    }
    at += BLOCK_HEAD + length;
    if ((head[0] & 0x80) !== 0) return stream && { ...stream, begins: at };
  }
  return null;
}

/** Bytes of the frame that begins at `at`: up to where its check sum stands, and behind it the next frame, or the end of what there is. */
async function frameBytes(content: ByteSource, at: number, { leastFrame, mostFrame }: Stream, isLast: boolean): Promise<number | null> {
  const bytes = await some(content, at, Math.min(mostFrame, MOST_FRAME) + 2 + FRAME_HEAD);
  let sum = 0;
  let chance: number | null = null;
  for (let place = 0; place + 2 <= bytes.length; place++) {
    if (place >= Math.max(leastFrame, FRAME_HEAD / 2) - 2 && be16(bytes, place) === sum) {
      const end = place + 2;
      if (!isLast && frameSamples(bytes, end) > 0) return end;
      // The last frame's sum may be met by chance: what stands behind it decides, zeros up to the end of its sector.
      if (isLast) {
        const rest = bytes.subarray(end, end + ((512 - ((at + end) % 512)) % 512));
        if (rest.every((byte) => byte === 0)) return end;
        chance ??= end;
      }
    }
    sum = ((sum << 8) ^ CRC16[(sum >> 8) ^ bytes[place]]) & 0xffff;
  }
  return chance;
}

/** FLAC (RFC 9639): blocks, then frames, each with a check sum, until as many samples were met as the stream says it has. */
export const flac: FollowedType = {
  reach: "followed",
  formats: [lossless],
  firstBytes: [0x66],
  beginsBytes: 8,
  begins: (bytes, at) => ascii(bytes, at, "fLaC") && (bytes[at + 4] & 0x7f) === STREAMINFO,
  async seconds(content) {
    const stream = await readBlocks(content);
    return stream && stream.rate > 0 ? stream.samples / stream.rate : null;
  },
  async follow(source) {
    const content = windowSource(source, 2 * MOST_FRAME);
    const stream = await readBlocks(content);
    if (!stream) return null;
    let at = stream.begins;
    let samples = 0;
    for (let frames = 0; frames < MAX_FRAMES; frames++) {
      const here = frameSamples(await some(content, at, FRAME_HEAD), 0);
      if (here === 0) break;
      samples += here;
      const isLast = stream.samples > 0 && samples >= stream.samples;
      const length = await frameBytes(content, at, stream, isLast);
      if (length === null) break;
      at += length;
      if (isLast) return { format: lossless, length: at, ends: true };
    }
    return at === stream.begins && samples === 0 ? null : brokenOff(lossless, content, at);
  },
};
