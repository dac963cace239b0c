import { type Contents, contentBytes } from "../../../core/archives/stream.ts";
import { sliceSource } from "../../../core/bytes/extents.ts";
import type { ByteSource } from "../../../core/bytes/source.ts";
import { describeContent } from "../../../core/filetypes/describe.ts";
import type { Format } from "../../../core/filetypes/format.ts";
import { checkedType, formatNamed, pixelsOf as sidesByHeader, typeOf } from "../../../core/filetypes/table.ts";
import type { Find } from "../../../core/finds/find.ts";
import { decoderOf, isBrowsersOwn } from "../looking/decodable.ts";
import { decodeAndDraw } from "../looking/drawing.ts";
import { decoded, decoders, MOST_BYTES } from "./decoders.ts";
import { drawing } from "./drawings.ts";
import { firstLines } from "./first-lines.ts";
import { MOST_PIXELS, PixelGate } from "./pixel-gate.ts";
import type { PageAnswer, PagesAnswer, PreviewAnswer } from "./protocol.ts";
import { textOf } from "./texts.ts";

/** Pixels of a picture that is decoded here: what decodes it keeps them twice. */
const MOST_PIXELS_HERE = 50_000_000;

/** Bytes of a text that are read for its first lines. */
const MOST_OF_TEXT = 4096;

const DRAWING = "image/svg+xml";

const gate = new PixelGate();

/** A find that is to be shown: its content, and the same for who reads a few places of it: a Blob, or an address. Null: neither is to be had without a copy. */
export interface Shown {
  readonly find: Find;
  readonly contents: Contents;
  readonly film: () => Promise<Blob | string | null>;
}

/** What is shown of a find on the wall, by the way its format is looked at. */
const BY_WAY: Partial<Record<NonNullable<Format["preview"]>, (shown: Shown, format: Format, side: number) => Promise<PreviewAnswer>>> = {
  image: drawPicture,
  text: drawLines,
  pages: drawFirstPage,
  video: drawFrame,
};

/** Shows a find no larger than `side`. Nothing of a find is ever run. */
export async function drawPreview(shown: Shown, side: number): Promise<PreviewAnswer> {
  const format = formatNamed(shown.find.format);
  const way = format.preview && BY_WAY[format.preview];
  if (!way || contentBytes(shown.find) === 0) return null;
  return way(shown, format, side);
}

/** What a decoder takes of a damaged picture: up to where it breaks off, and behind it what it wants to see there. */
async function decodable({ format, condition }: Find, stream: ByteSource): Promise<Uint8Array[]> {
  const content = await stream.read(0, stream.size);
  const type = condition === "damaged" ? checkedType(format) : null;
  if (!type?.mend) return [content];
  const { length } = await type.measure(stream);
  return [content.subarray(0, length), type.mend];
}

/** Pixels by a picture's own header: asked before anything is decoded, since a few bytes can claim billions. */
async function pixelsOf({ width, height }: Pick<Find, "width" | "height">, stream: ByteSource): Promise<number | null> {
  if (width && height) return width * height;
  const type = await typeOf(stream);
  const sides = type?.reach === "checked" ? await type.measure(stream) : type && (await sidesByHeader(type, stream));
  return sides?.width && sides.height ? sides.width * sides.height : null;
}

async function drawPicture({ find, contents }: Shown, { name, media }: Format, side: number): Promise<PreviewAnswer> {
  const stream = contents.of(find);
  if (media === DRAWING) return drawing(stream);
  const isBrowsers = isBrowsersOwn(media);
  if (!isBrowsers && !decoderOf(name))
    return (await innerPicture(stream, side)) ?? { word: `${name.toUpperCase()} is not drawn here: hand it over` };
  const pixels = await pixelsOf(find, stream);
  if (pixels === null) return isBrowsers && !checkedType(name) ? { word: "it does not say how large it is" } : null;
  if (pixels > (isBrowsers ? MOST_PIXELS : MOST_PIXELS_HERE) || stream.size > MOST_BYTES)
    return (await smallCopy(stream, find, side)) ?? { word: tooLarge(find, pixels) };
  if (!isBrowsers)
    return { picture: await gate.through(pixels, () => decoded(stream, (desk, bytes) => desk.picture(name, bytes, media ?? "", side))) };
  const parts = await decodable(find, stream);
  const picture = await gate.through(pixels, () => decodeAndDraw(parts, media, side, pixels));
  return picture && { picture };
}

const tooLarge = ({ width, height }: Find, pixels: number): string =>
  `too large to be shown here: ${Math.round(pixels / 1e6).toLocaleString("en")} million pixels${width && height ? ` (${width.toLocaleString("en")} × ${height.toLocaleString("en")})` : ""}`;

/** The small copy that a large picture carries in its camera data, where it has one that is small itself. */
async function smallCopy(stream: ByteSource, { format }: Find, side: number): Promise<PreviewAnswer> {
  const { media } = formatNamed(format);
  const place = (await describeContent(stream)).thumbnail;
  if (!place || place.offset + place.length > stream.size || place.length > MOST_BYTES || media === null) return null;
  return drawnPart(sliceSource(stream, place.offset, place.length), media, side);
}

/** The largest picture within one of a form that is not drawn itself: what a camera or a program put there to be looked at. */
async function innerPicture(stream: ByteSource, side: number): Promise<PreviewAnswer> {
  const type = await typeOf(stream);
  const places = (await type?.inner?.(stream)) ?? [];
  for (const { offset, length } of [...places].sort((a, b) => b.length - a.length)) {
    if (offset + length > stream.size || length > MOST_BYTES) continue;
    const drawn = await drawnPart(sliceSource(stream, offset, length), "image/jpeg", side);
    if (drawn) return drawn;
  }
  return null;
}

async function drawnPart(inner: ByteSource, media: string, side: number): Promise<PreviewAnswer> {
  const pixels = await pixelsOf({ width: null, height: null }, inner);
  if (pixels === null || pixels > MOST_PIXELS) return null;
  const picture = await gate.through(pixels, async () => decodeAndDraw([await inner.read(0, inner.size)], media, side, pixels));
  return picture && { picture };
}

async function drawLines({ find, contents }: Shown): Promise<PreviewAnswer> {
  const answer = await textOf(find.format, contents.of(find), MOST_OF_TEXT);
  const lines = "text" in answer ? firstLines(answer.text) : null;
  return lines && { lines };
}

/** A page of a PDF, counted from 1. */
export async function drawPage(stream: ByteSource, number: number, side: number): Promise<PageAnswer> {
  if (stream.size > MOST_BYTES) return { word: "too large to be shown here: hand it over" };
  return decoded(stream, (desk, bytes) => desk.page(bytes, number, side));
}

/** Numbers of the pages of a PDF on which all of these words stand. */
export async function searchPages(stream: ByteSource, words: string): Promise<PagesAnswer> {
  if (stream.size > MOST_BYTES) return { word: "too large to be searched here: hand it over" };
  return { pages: await decoded(stream, (desk, bytes) => desk.pagesWith(bytes, words)) };
}

async function drawFirstPage({ find, contents }: Shown, { name }: Format, side: number): Promise<PreviewAnswer> {
  return name === "pdf" ? drawPage(contents.of(find), 1, side) : null;
}

async function drawFrame({ film: ofShown }: Shown, _format: Format, side: number): Promise<PreviewAnswer> {
  const film = await ofShown();
  const picture = film === null ? null : await decoders.run((desk) => desk.frame(film, side));
  return picture && { picture };
}
