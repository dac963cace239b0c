import type { ByteSource } from "../../bytes/source.ts";
import { windowSource } from "../../bytes/window-source.ts";
import { ascii, type Declared, type DeclaredType, some } from "./declared.ts";

/** Frames before we stop believing, and frames that must follow each other before chance is left behind. */
const MAX_FRAMES = 2_000_000;
const LEAST_FRAMES = 5;

/** Steps over frames from `from` on; `lengthOf` says how long the one is whose head it is given, 0 where none begins. */
async function overFrames(
  source: ByteSource,
  from: number,
  lengthOf: (head: Uint8Array) => number,
): Promise<{ length: number; frames: number }> {
  const content = windowSource(source);
  let at = from;
  let frames = 0;
  for (; frames < MAX_FRAMES; frames++) {
    const length = lengthOf(await some(content, at, 10));
    if (length === 0 || at + length > content.size) break;
    at += length;
  }
  return { length: at, frames };
}

const audio = (format: string, { length, frames }: { length: number; frames: number }): Declared | null =>
  frames >= LEAST_FRAMES ? { format, kind: "audio", length, ends: true } : null;

/** ISO/IEC 13818-7 §6.2 (ADTS): 13 bits of frame length behind the sync word. */
const adtsFrame = (head: Uint8Array): number =>
  head.length >= 7 && head[0] === 0xff && (head[1] & 0xf6) === 0xf0 ? ((head[3] & 3) << 11) | (head[4] << 3) | (head[5] >> 5) : 0;
export const adts: DeclaredType = {
  firstByte: 0xff,
  beginsBytes: 7,
  begins: (bytes, at) => adtsFrame(bytes.subarray(at, at + 7)) >= 7,
  declare: async (content) => audio("aac", await overFrames(content, 0, adtsFrame)),
};

/** ISO/IEC 11172-3 §2.4.2.3 and 13818-3: bit rates (kbit/s) of layer III, and sampling rates. */
const RATES = {
  one: [0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320],
  two: [0, 8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160],
};
const SAMPLING = [44_100, 48_000, 32_000];
function mp3Frame(head: Uint8Array): number {
  if (head.length < 4 || head[0] !== 0xff || (head[1] & 0xe6) !== 0xe2) return 0;
  const version = (head[1] >> 3) & 3;
  const one = version === 3;
  const rate = (one ? RATES.one : RATES.two)[head[2] >> 4] ?? 0;
  const sampling = SAMPLING[(head[2] >> 2) & 3];
  if (version === 1 || rate === 0 || sampling === undefined) return 0;
  const hertz = one ? sampling : version === 2 ? sampling / 2 : sampling / 4;
  return Math.floor(((one ? 144 : 72) * rate * 1000) / hertz) + ((head[2] >> 1) & 1);
}
/** ID3v2.4 §3.1: ten bytes, the size in four times seven bits. */
const id3Bytes = (head: Uint8Array): number =>
  ascii(head, 0, "ID3") && head.length >= 10 ? 10 + (head[6] << 21) + (head[7] << 14) + (head[8] << 7) + head[9] : 0;
export const mp3: DeclaredType = {
  firstByte: null,
  beginsBytes: 10,
  begins: (bytes, at) => (bytes[at] === 0xff ? mp3Frame(bytes.subarray(at, at + 4)) > 0 : ascii(bytes, at, "ID3")),
  async declare(content) {
    const walked = await overFrames(content, id3Bytes(await some(content, 0, 10)), mp3Frame);
    // ID3v1: 128 bytes behind the last frame.
    const tail = await some(content, walked.length, 3);
    return audio("mp3", ascii(tail, 0, "TAG") ? { ...walked, length: Math.min(content.size, walked.length + 128) } : walked);
  },
};

/** RFC 4867 §5.3: a frame's type is four bits of its first byte; bytes of each type. Bit 2: the frame is good; cleared space has none. */
const AMR_BYTES = [13, 14, 16, 18, 20, 21, 27, 32, 6, 0, 0, 0, 0, 0, 0, 1];
const AMR_HEAD = "#!AMR\n";
export const amr: DeclaredType = {
  firstByte: 0x23,
  beginsBytes: 7,
  begins: (bytes, at) => ascii(bytes, at, AMR_HEAD),
  declare: async (content) =>
    audio(
      "amr",
      await overFrames(content, AMR_HEAD.length, (head) => (head.length > 0 && (head[0] & 0x87) === 0x04 ? AMR_BYTES[head[0] >> 3] : 0)),
    ),
};
