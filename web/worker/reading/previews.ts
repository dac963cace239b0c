import { type Contents, contentBytes } from "../../../core/archives/stream.ts";
import { sliceSource } from "../../../core/bytes/extents.ts";
import type { ByteSource } from "../../../core/bytes/source.ts";
import { describeContent } from "../../../core/filetypes/describe.ts";
import type { CheckedType } from "../../../core/filetypes/file-type.ts";
import { checkedType, formatNamed } from "../../../core/filetypes/table.ts";
import type { Find } from "../../../core/finds/find.ts";
import { MOST_PIXELS, PixelGate } from "./pixel-gate.ts";
import type { PreviewAnswer } from "./protocol.ts";

/** Larger files are not drawn: their bytes would not fit in memory beside the others. */
const MAX_BYTES = 64 * 1024 * 1024;

/** The one media type whose decoders make a picture smaller while they decode it. */
const SHRINKING = "image/jpeg";

const gate = new PixelGate();

/** A picture that a browser draws and whose header is walked here, so that its pixels are known before anything is decoded. */
const drawable = (format: string) => {
  const { preview, media } = formatNamed(format);
  const type = checkedType(format);
  return preview === "image" && media !== null && type ? { type, media } : null;
};

/** What a decoder takes of a damaged picture: up to where it breaks off, and behind it what it wants to see there. */
async function mended(type: CheckedType, stream: ByteSource, content: Uint8Array): Promise<Uint8Array[]> {
  if (!type.mend) return [content];
  const { length } = await type.measure(stream);
  return [content.subarray(0, length), type.mend];
}

/** Pixels by a picture's own header: asked before anything is decoded, since a few bytes can claim billions. */
async function pixelsOf({ width, height, format }: Pick<Find, "width" | "height" | "format">, stream: ByteSource): Promise<number | null> {
  const size = width && height ? { width, height } : await checkedType(format)?.measure(stream);
  return size?.width && size.height ? size.width * size.height : null;
}

/** Draws a find no larger than `side`. The browser decodes pixels only: nothing of a find is ever run. */
export async function drawPreview(find: Find, contents: Contents, side: number): Promise<PreviewAnswer> {
  const known = drawable(find.format);
  const bytes = contentBytes(find);
  if (!known || bytes === 0) return null;
  const stream = contents.of(find);
  const pixels = await pixelsOf(find, stream);
  if (pixels === null) return null;
  if (pixels > MOST_PIXELS || bytes > MAX_BYTES) return (await smallCopy(stream, find, side)) ?? { word: tooLarge(find, pixels) };
  const content = await stream.read(0, bytes);
  const parts = find.condition === "damaged" ? await mended(known.type, stream, content) : [content];
  const picture = await gate.through(pixels, () => draw(parts, known.media, side, pixels));
  return picture && { picture };
}

const tooLarge = ({ width, height }: Find, pixels: number): string =>
  `too large to be shown here: ${Math.round(pixels / 1e6).toLocaleString("en")} million pixels${width && height ? ` (${width.toLocaleString("en")} × ${height.toLocaleString("en")})` : ""}`;

/** The small copy that a large picture carries in its camera data, where it has one that is small itself. */
async function smallCopy(stream: ByteSource, { format }: Find, side: number): Promise<PreviewAnswer> {
  const { media } = formatNamed(format);
  const place = (await describeContent(stream)).thumbnail;
  if (!place || place.offset + place.length > stream.size || place.length > MAX_BYTES || media === null) return null;
  const inner = sliceSource(stream, place.offset, place.length);
  const pixels = await pixelsOf({ width: null, height: null, format }, inner);
  if (pixels === null || pixels > MOST_PIXELS) return null;
  const picture = await gate.through(pixels, async () => draw([await inner.read(0, inner.size)], media, side, pixels));
  return picture && { picture };
}

async function draw(parts: readonly Uint8Array[], type: string, side: number, pixels: number): Promise<Blob | null> {
  const content = new Blob([...parts] as BlobPart[], { type });
  const isLarge = pixels > LARGE_PIXELS;
  const picture = (isLarge && (await decodedSmall(content, side * 2))) || (await createImageBitmap(content).catch(() => null));
  if (!picture) return null;
  try {
    const canvas = isLarge ? scaled(scaled(picture, Math.min(side * 4, LARGEST_STEP), "low"), side, "high") : scaled(picture, side, "high");
    return await canvas.convertToBlob({ type, quality: 0.85 });
  } catch {
    // A browser that does not draw here shows no picture, as before one that it cannot decode.
    return null;
  } finally {
    picture.close();
  }
}

/**
 * A JPEG that is made smaller while it is decoded, so that its pixels never lie in memory (WebCodecs §11.2, `desiredWidth`).
 * @returns null where this browser or this picture does not let it
 */
async function decodedSmall(content: Blob, side: number): Promise<VideoFrame | null> {
  if (content.type !== SHRINKING || typeof ImageDecoder === "undefined") return null;
  const decoder = new ImageDecoder({ data: await content.arrayBuffer(), type: content.type, desiredWidth: side, desiredHeight: side });
  try {
    return (await decoder.decode()).image;
  } catch {
    return null;
  } finally {
    decoder.close();
  }
}

/** Pixels above which a picture is made smaller in two steps: the fine way would take a third of its memory once more. */
const LARGE_PIXELS = 16_000_000;
/** Pixels of a side of the step between: it must not be a second large picture. */
const LARGEST_STEP = 4096;

/** A picture of which no side is longer than `side`. */
function scaled(picture: ImageBitmap | OffscreenCanvas | VideoFrame, side: number, quality: ImageSmoothingQuality): OffscreenCanvas {
  // A frame is turned as its camera data say; its display size is the turned one.
  const [width, height] = "displayWidth" in picture ? [picture.displayWidth, picture.displayHeight] : [picture.width, picture.height];
  const scale = Math.min(1, side / Math.max(width, height));
  const canvas = new OffscreenCanvas(Math.max(1, Math.round(width * scale)), Math.max(1, Math.round(height * scale)));
  // Kept in memory: a picture that is drawn by the graphics card is copied there first.
  const context = canvas.getContext("2d", { willReadFrequently: true });
  if (!context) throw new Error("this browser draws no pictures in a worker");
  context.imageSmoothingQuality = quality;
  context.drawImage(picture, 0, 0, canvas.width, canvas.height);
  return canvas;
}
