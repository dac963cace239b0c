import { isFrame } from "./jpeg/headers.ts";

/** Address books keep thumbnails: what is larger is none of theirs, and nothing that a list of a thousand people should unpack. */
const MOST_BYTES = 64 * 1024;
const MOST_SIDE = 2048;
const PNG = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a];
/** Segments before the frame of a JPEG that are walked over. */
const MOST_SEGMENTS = 64;

/**
 * The small picture of a person as a data address (RFC 2397), in base64 (RFC 4648 §4): a JPEG or a PNG, as address books keep them.
 * @returns undefined where it is another thing, or has more bytes or longer sides than a thumbnail: what its header promises is what a decoder would unpack
 */
export function photoOf(bytes: Uint8Array): string | undefined {
  if (bytes.length > MOST_BYTES) return undefined;
  const [type, sides] = PNG.every((byte, at) => bytes[at] === byte) ? ["image/png", pngSides(bytes)] : ["image/jpeg", jpegSides(bytes)];
  if (!sides || sides.some((side) => side < 1 || side > MOST_SIDE)) return undefined;
  let text = "";
  for (const byte of bytes) text += String.fromCharCode(byte);
  return `data:${type};base64,${btoa(text)}`;
}

/** IHDR comes first (PNG 3rd edition, 11.2.1). */
function pngSides(bytes: Uint8Array): number[] | null {
  if (bytes.length < 24) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  return [view.getUint32(16), view.getUint32(20)];
}

/** Of the first frame header: behind its length and precision stand lines and samples of a line (ITU-T T.81, B.2.2). */
function jpegSides(bytes: Uint8Array): number[] | null {
  if (bytes[0] !== 0xff || bytes[1] !== 0xd8) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  for (let at = 2, met = 0; at + 9 <= bytes.length && met < MOST_SEGMENTS; met++) {
    if (bytes[at] !== 0xff) return null;
    if (isFrame(bytes[at + 1])) return [view.getUint16(at + 5), view.getUint16(at + 7)];
    at += 2 + view.getUint16(at + 2);
  }
  return null;
}
