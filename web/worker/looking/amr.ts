import { AMR } from "web-amr/dist/vendor/amrnb.js";
import { wavOf } from "./wav.ts";

/** RFC 4867 §5.1, §5.3: the word at the beginning; bytes of a frame by its type, its head among them. */
const WORD = "#!AMR\n";
const BYTES = [13, 14, 16, 18, 20, 21, 27, 32, 6, 1, 1, 1, 1, 1, 1, 1];
/** Frames that are decoded at once: the decoder takes a hundred times the room of what it is given. */
const AT_ONCE = 5000;
const RATE = 8000;

/** Speech in narrow band (RFC 4867), decoded to what browsers play. @throws where nothing of it can be */
export function wavOfAmr(bytes: Uint8Array): Blob {
  const word = new TextEncoder().encode(WORD);
  const parts: Uint8Array[] = [];
  for (let at = WORD.length; at < bytes.length; ) {
    let end = at;
    for (let frames = 0; frames < AT_ONCE && end < bytes.length; frames++) end += BYTES[(bytes[end] >> 3) & 15];
    const piece = new Uint8Array(WORD.length + Math.min(end, bytes.length) - at);
    piece.set(word);
    piece.set(bytes.subarray(at, end), WORD.length);
    const samples = AMR._decode(piece);
    if (samples) parts.push(new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength).slice());
    at = end;
  }
  const all = new Uint8Array(parts.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.length;
  }
  if (all.length === 0) throw new Error("none of its frames can be decoded");
  return wavOf(all, { rate: RATE, channels: 1, bits: 16 });
}
