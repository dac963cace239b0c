import { u32be } from "../../bytes/layout.ts";
import type { ByteSource } from "../../bytes/source.ts";
import type { FollowedType } from "../file-type.ts";
import { sound } from "../format.ts";
import { ascii, some } from "./follow.ts";
import { framesOf, overFrames } from "./frames.ts";

const be32 = u32be(0);
const layer3 = sound("mp3", "audio/mpeg", ["mp3", "mp2"]);

/** ISO/IEC 11172-3 §2.4.2.3 and 13818-3: bit rates (kbit/s) of layer III, and sampling rates. */
const RATES = {
  one: [0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320],
  two: [0, 8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160],
};
const SAMPLING = [44_100, 48_000, 32_000];

interface Frame {
  readonly bytes: number;
  readonly samples: number;
  /** Samples of a second. */
  readonly hertz: number;
  /** Bytes of what stands between the head and the sound. */
  readonly side: number;
}

const mp3Frame = (head: Uint8Array): number => frameAt(head)?.bytes ?? 0;

function frameAt(head: Uint8Array): Frame | null {
  if (head.length < 4 || head[0] !== 0xff || (head[1] & 0xe6) !== 0xe2) return null;
  const version = (head[1] >> 3) & 3;
  const one = version === 3;
  const rate = (one ? RATES.one : RATES.two)[head[2] >> 4] ?? 0;
  const sampling = SAMPLING[(head[2] >> 2) & 3];
  if (version === 1 || rate === 0 || sampling === undefined) return null;
  const hertz = one ? sampling : version === 2 ? sampling / 2 : sampling / 4;
  const bytes = Math.floor(((one ? 144 : 72) * rate * 1000) / hertz) + ((head[2] >> 1) & 1);
  const isMono = head[3] >> 6 === 3;
  return { bytes, samples: one ? 1152 : 576, hertz, side: one ? (isMono ? 17 : 32) : isMono ? 9 : 17 };
}

/**
 * How long it is: by the count of frames that encoders put into the first one ("Xing" or "Info": common practice, no source), else by the bytes of a
 * frame, all of them alike.
 */
async function lastsFor(content: ByteSource): Promise<number | null> {
  const from = id3Bytes(await some(content, 0, 10));
  const head = await some(content, from, HEAD);
  const first = frameAt(head);
  if (!first) return null;
  const at = 4 + first.side;
  const isCounted = head.length >= at + 12 && (ascii(head, at, "Xing") || ascii(head, at, "Info")) && (head[at + 7] & 1) === 1;
  const frames = isCounted ? be32(head, at + 8) : (content.size - from) / first.bytes;
  return (frames * first.samples) / first.hertz;
}
/** Bytes of the first frame that are looked at. */
const HEAD = 64;
/** ID3v2.4 §3.1: ten bytes, the size in four times seven bits. */
const id3Bytes = (head: Uint8Array): number =>
  ascii(head, 0, "ID3") && head.length >= 10 ? 10 + (head[6] << 21) + (head[7] << 14) + (head[8] << 7) + head[9] : 0;
export const mp3: FollowedType = {
  reach: "followed",
  formats: [layer3],
  firstBytes: [0xff, 0x49],
  byChance: true,
  beginsBytes: 10,
  begins: (bytes, at) => (bytes[at] === 0xff ? mp3Frame(bytes.subarray(at, at + 4)) > 0 : ascii(bytes, at, "ID3")),
  seconds: lastsFor,
  async follow(content) {
    const walked = await overFrames(content, id3Bytes(await some(content, 0, 10)), mp3Frame);
    // ID3v1: 128 bytes behind the last frame.
    const tail = await some(content, walked.length, 3);
    return framesOf(layer3, ascii(tail, 0, "TAG") ? { ...walked, length: Math.min(content.size, walked.length + 128) } : walked);
  },
};
