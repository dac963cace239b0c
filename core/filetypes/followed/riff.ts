import { u16, u32 } from "../../bytes/layout.ts";
import type { ByteSource } from "../../bytes/source.ts";
import type { FollowedType, Pixels } from "../file-type.ts";
import { film, format, picture, sound } from "../format.ts";
import { ascii, some, within } from "./follow.ts";

const le16 = u16(0);
const le32 = u32(0);
const wav = sound("wav", "audio/wav", ["wav", "wave"]);
const avi = film("avi", "video/x-msvideo");
const webp = picture("webp", "image/webp");
const midi = format("rmi", "audio", { preview: "sound" });
const cursor = format("ani", "other");
/** The form that stands behind the size says what it is. */
const FORMS = { WAVE: wav, "AVI ": avi, WEBP: webp, RMID: midi, ACON: cursor } as const;
const formAt = (bytes: Uint8Array, at: number) => Object.entries(FORMS).find(([form]) => ascii(bytes, at, form))?.[1] ?? null;

/**
 * WebP ("WebP Container Specification"; RFC 9649 §2): the canvas of an extended file, else the frame of a lossless (RFC 9649 §3.4) or of a lossy
 * picture (RFC 6386 §9.1), each in its first chunk.
 */
async function webpPixels(content: ByteSource): Promise<Pixels | null> {
  const head = await some(content, 12, 18);
  if (head.length < 18) return null;
  const three = (at: number) => le16(head, at) | (head[at + 2] << 16);
  if (ascii(head, 0, "VP8X")) return { width: three(12) + 1, height: three(15) + 1 };
  if (ascii(head, 0, "VP8L") && head[8] === LOSSLESS) {
    const sides = le32(head, 9);
    return { width: (sides & 0x3fff) + 1, height: ((sides >>> 14) & 0x3fff) + 1 };
  }
  if (!ascii(head, 0, "VP8 ") || !LOSSY.every((byte, index) => head[11 + index] === byte)) return null;
  return { width: le16(head, 14) & 0x3fff, height: le16(head, 16) & 0x3fff };
}
const LOSSLESS = 0x2f;
const LOSSY = [0x9d, 0x01, 0x2a];

/** Chunks (RIFF): four letters, a size, and what they hold, filled up to an even number of bytes. */
const MAX_CHUNKS = 64;
const CHUNK_HEAD = 8;

/** Where the first chunk of that name begins within `from` to `to`, and how long it says it is. */
async function chunk(content: ByteSource, name: string, from: number, to: number): Promise<{ at: number; size: number } | null> {
  let at = from;
  for (let chunks = 0; chunks < MAX_CHUNKS && at + CHUNK_HEAD <= to; chunks++) {
    const head = await some(content, at, CHUNK_HEAD);
    if (head.length < CHUNK_HEAD) return null;
    const size = le32(head, 4);
    if (ascii(head, 0, name)) return { at: at + CHUNK_HEAD, size };
    at += CHUNK_HEAD + size + (size & 1);
  }
  return null;
}

/** Sound: its bytes, and how many of them a second takes ("Multimedia Programming Interface and Data Specifications 1.0", WAVE). */
async function waveSeconds(content: ByteSource): Promise<number | null> {
  const form = await chunk(content, "fmt ", 12, content.size);
  const data = await chunk(content, "data", 12, content.size);
  const about = form && (await some(content, form.at, 12));
  const each = about && about.length === 12 ? le32(about, 8) : 0;
  return data && each > 0 ? Math.min(data.size, content.size - data.at) / each : null;
}

/** Film: its frames, and microseconds of each (the same source, AVI: the main header, first in the first list). */
async function aviSeconds(content: ByteSource): Promise<number | null> {
  const header = await chunk(content, "avih", 24, 24 + CHUNK_HEAD);
  const about = header && (await some(content, header.at, 20));
  return about && about.length === 20 ? (le32(about, 0) * le32(about, 16)) / 1e6 : null;
}

/** Segments of one recording before we stop believing: each holds up to 1 GiB. */
const MAX_SEGMENTS = 256;

/**
 * RIFF ("Multimedia Programming Interface and Data Specifications 1.0", 1991): a size behind the tag, then what it holds. A long
 * AVI goes on in further segments of the form AVIX ("OpenDML AVI File Format Extensions" 1.02, §3).
 */
export const riff: FollowedType = {
  reach: "followed",
  formats: [wav, avi, webp, midi, cursor],
  firstBytes: [0x52],
  beginsBytes: 12,
  begins: (bytes, at) => ascii(bytes, at, "RIFF") && formAt(bytes, at + 8) !== null,
  narrow: async (content: ByteSource) => formAt(await some(content, 8, 4), 0) ?? wav,
  async seconds(content) {
    const found = formAt(await some(content, 8, 4), 0);
    return found === wav ? waveSeconds(content) : found === avi ? aviSeconds(content) : null;
  },
  pixels: async (content) => (ascii(await some(content, 8, 4), 0, "WEBP") ? webpPixels(content) : null),
  async follow(content) {
    const head = await some(content, 0, 12);
    const found = formAt(head, 8);
    let length = le32(head, 4) + 8;
    if (!found || length < 20) return null;
    length += length & 1;
    for (let segments = 0; found === avi && segments < MAX_SEGMENTS; segments++) {
      const next = await some(content, length, 12);
      if (next.length < 12 || !ascii(next, 0, "RIFF") || !ascii(next, 8, "AVIX")) break;
      length += 8 + le32(next, 4);
    }
    return within(found, content, length);
  },
};
