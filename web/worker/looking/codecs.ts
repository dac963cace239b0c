import type { Input } from "mediabunny";
import { type Film, inputOf, withoutClocks } from "./transport.ts";

/** Names that people know codecs by. */
const WORDS: Readonly<Record<string, string>> = {
  avc: "H.264",
  hevc: "HEVC (H.265)",
  vp8: "VP8",
  vp9: "VP9",
  av1: "AV1",
  aac: "AAC",
  opus: "Opus",
  mp3: "MP3",
  vorbis: "Vorbis",
  flac: "FLAC",
  ac3: "AC-3",
  eac3: "E-AC-3",
};

/** Formats whose contents are of one codec. */
const FIXED: Readonly<Record<string, string>> = { awb: "AMR wide-band", amr: "AMR narrow-band", mid: "notes for instruments, not sound" };

/** Bytes of an AVI in which its streams are told of. */
const HEAD = 16 * 1024;
/** Bytes of a stream with clocks whose packets tell what it is coded in. */
const MOST_PACKETS = 8 * 1024 * 1024;
/** A stream's header ("Multimedia Programming Interface and Data Specifications 1.0", AVI): its kind, and four letters of what it is coded in. */
const STREAM = /strh[\s\S]{4}(vids|auds)([A-Za-z0-9]{4})/g;

/** One stream of a film or sound: what it is coded in, and whether this browser decodes that. */
export interface Coded {
  readonly words: string;
  readonly isSound: boolean;
  readonly isDecoded: boolean;
}

const notDecoded = (words: string, isSound: boolean): Coded => ({ words, isSound, isDecoded: false });

/** What a film's or sound's streams are coded in. Empty: that cannot be told. */
export async function codecsOf(format: string, film: Film): Promise<Coded[]> {
  if (format in FIXED) return [notDecoded(FIXED[format], true)];
  if (format === "avi" && typeof film !== "string") {
    const head = new TextDecoder("latin1").decode(await film.slice(0, HEAD).arrayBuffer());
    return Array.from(head.matchAll(STREAM), ([, kind, letters]) => notDecoded(letters, kind === "auds"));
  }
  const input = inputOf(await withoutClocks(film, MOST_PACKETS));
  try {
    return await codecsIn(input);
  } finally {
    input.dispose();
  }
}

async function codecsIn(input: Input): Promise<Coded[]> {
  if (!(await input.canRead())) return [];
  const all: Coded[] = [];
  for (const track of await input.getTracks()) {
    const { codec, internalCodecId } = track;
    const own = typeof internalCodecId === "string" && /^[\w ./-]{2,24}$/.test(internalCodecId) ? internalCodecId.trim() : null;
    const words = codec ? (WORDS[codec] ?? codec) : own;
    if (words) all.push({ words, isSound: track.isAudioTrack(), isDecoded: await track.canDecode().catch(() => false) });
  }
  return all;
}
