import { unzipSync } from "fflate";
import PostalMime from "postal-mime";
import { memorySource } from "../../../core/bytes/memory-source.ts";
import { formatOf, HEAD_BYTES, pixelsOf, typeAt, typeOf } from "../../../core/filetypes/table.ts";
import { isBrowsersOwn, readerOf } from "./decodable.ts";
import { decodeAndDraw } from "./drawing.ts";
import { streamsIn } from "./older/streams.ts";

/** Pictures of a document that are drawn, bytes of all of them, and pixels of one. */
const MOST = 40;
const MOST_BYTES = 64 * 1024 * 1024;
const MOST_PIXELS = 40_000_000;

/** A picture that stands in a document, drawn. */
export interface InnerPicture {
  /** What its file is called there; empty: nothing. */
  readonly name: string;
  readonly picture: Blob;
}

/** The pictures of a document, in the order in which they lie there, and how many are of forms that are not drawn here, too large or broken. */
export interface InnerPictures {
  readonly pictures: readonly InnerPicture[];
  readonly left: number;
}

interface Part {
  readonly name: string;
  readonly bytes: Uint8Array;
}

/** Draws the pictures that stand in a document, no side longer than `side`. Nothing is decoded before its header said how large it is. */
export async function innerPictures(format: string, document: Uint8Array, side: number): Promise<InnerPictures> {
  const pictures: InnerPicture[] = [];
  let left = 0;
  for (const { name, bytes } of await partsOf(format, document)) {
    const picture = pictures.length < MOST ? await draw(bytes, side).catch(() => null) : null;
    if (picture) pictures.push({ name, picture });
    else left++;
  }
  return { pictures, left };
}

async function draw(bytes: Uint8Array, side: number): Promise<Blob | null> {
  const content = memorySource(bytes);
  const type = await typeOf(content);
  if (!type) return null;
  const { media } = await formatOf(type, content);
  const sides = type.reach === "checked" ? await type.measure(content) : await pixelsOf(type, content);
  if (!isBrowsersOwn(media) || !sides?.width || !sides.height || sides.width * sides.height > MOST_PIXELS) return null;
  return decodeAndDraw([bytes], media, side, sides.width * sides.height);
}

const PICTURE = /\.(png|jpe?g|gif|bmp|webp|avif|svg|tiff?|emf|wmf)$/i;
const last = (path: string): string => path.slice(path.lastIndexOf("/") + 1);

async function partsOf(format: string, document: Uint8Array): Promise<Part[]> {
  const reader = readerOf(format);
  if (reader === "office") return inArchive(document);
  if (reader === "older") return inStreams(document);
  if (reader !== "mail") return [];
  const { attachments } = await PostalMime.parse(document);
  return attachments.flatMap(({ filename, mimeType, content }) =>
    mimeType.startsWith("image/") && content instanceof ArrayBuffer ? [{ name: filename ?? "", bytes: new Uint8Array(content) }] : [],
  );
}

/** Of documents that are archives: their parts that are named as pictures. */
function inArchive(document: Uint8Array): Part[] {
  let all = 0;
  const parts = unzipSync(document, {
    filter: ({ name, originalSize }) => PICTURE.test(name) && (all += originalSize) <= MOST_BYTES,
  });
  return Object.entries(parts).map(([path, bytes]) => ({ name: last(path), bytes }));
}

/** What a picture in a stream begins with: PNG (§5.2), JPEG (T.81 §B.1.1.3). Headers of their own stand before it there ([MS-ODRAW] §2.2.23). */
const FIRST = new Set([0x89, 0xff]);

/** Of documents of older forms: what begins like a picture within a stream and can be walked to its end. */
async function inStreams(document: Uint8Array): Promise<Part[]> {
  const parts: Part[] = [];
  for (const { bytes } of streamsIn(document)) {
    for (let at = 0; at + HEAD_BYTES < bytes.length && parts.length <= MOST; at++) {
      const type = FIRST.has(bytes[at]) ? typeAt(bytes, at) : null;
      if (type?.reach !== "checked") continue;
      const { length, condition } = await type.measure(memorySource(bytes.subarray(at)));
      if (condition !== "whole") continue;
      parts.push({ name: "", bytes: bytes.slice(at, at + length) });
      at += length - 1;
    }
  }
  return parts;
}
