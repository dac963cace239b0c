/** What can be drawn: a picture that was decoded, in whichever form. */
export type Decoded = ImageBitmap | OffscreenCanvas | VideoFrame;

/** The one media type whose decoders make a picture smaller while they decode it. */
const SHRINKING = "image/jpeg";
/** Pixels above which a picture is made smaller in two steps: the fine way would take a third of its memory once more. */
const LARGE_PIXELS = 16_000_000;
/** Pixels of a side of the step between: it must not be a second large picture. */
const LARGEST_STEP = 4096;
const QUALITY = 0.85;

/** Formats that know no transparency, and are drawn as what takes less room. */
const OPAQUE = new Set([SHRINKING, "image/bmp", "image/heic"]);

/** Has a browser decode a picture and draws it no larger than `side`. Null: it cannot. */
export async function decodeAndDraw(parts: readonly Uint8Array[], media: string, side: number, pixels: number): Promise<Blob | null> {
  const content = new Blob([...parts] as BlobPart[], { type: media });
  const isLarge = pixels > LARGE_PIXELS;
  const picture = (isLarge && (await decodedSmall(content, side * 2))) || (await createImageBitmap(content).catch(() => null));
  if (!picture) return null;
  try {
    return await drawn(picture, media, side);
  } catch {
    // A browser that does not draw here shows no picture, as before one that it cannot decode.
    return null;
  } finally {
    picture.close();
  }
}

/** A decoded picture, no larger than `side`, as a file that an image element shows. */
export async function drawn(picture: Decoded, media: string, side: number): Promise<Blob> {
  const { width, height } = sidesOf(picture);
  const first = width * height > LARGE_PIXELS ? scaled(picture, Math.min(side * 4, LARGEST_STEP), "low") : picture;
  return scaled(first, side, "high").convertToBlob({ type: OPAQUE.has(media) ? SHRINKING : "image/png", quality: QUALITY });
}

/** Pixels of four bytes each as something to be drawn. */
export function ofPixels(pixels: Uint8Array | Uint8ClampedArray, width: number, height: number): OffscreenCanvas {
  const { canvas, context } = newCanvas(width, height);
  const own = new Uint8ClampedArray(pixels.buffer as ArrayBuffer, pixels.byteOffset, width * height * 4);
  context.putImageData(new ImageData(own, width, height), 0, 0);
  return canvas;
}

export function newCanvas(width: number, height: number) {
  const canvas = new OffscreenCanvas(Math.max(1, width), Math.max(1, height));
  // Kept in memory: a picture that is drawn by the graphics card is copied there first.
  const context = canvas.getContext("2d", { willReadFrequently: true });
  if (!context) throw new Error("this browser draws no pictures in a worker");
  return { canvas, context };
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

/** A frame is turned as its camera data say; its display size is the turned one. */
const sidesOf = (picture: Decoded): { width: number; height: number } =>
  "displayWidth" in picture ? { width: picture.displayWidth, height: picture.displayHeight } : picture;

/** A picture of which no side is longer than `side`. */
function scaled(picture: Decoded, side: number, quality: ImageSmoothingQuality): OffscreenCanvas {
  const { width, height } = sidesOf(picture);
  const scale = Math.min(1, side / Math.max(width, height));
  const { canvas, context } = newCanvas(Math.round(width * scale), Math.round(height * scale));
  context.imageSmoothingQuality = quality;
  context.drawImage(picture, 0, 0, canvas.width, canvas.height);
  return canvas;
}
