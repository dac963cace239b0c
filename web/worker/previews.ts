import { extentsSource, totalLength } from "../../core/bytes/extents.ts";
import type { ByteSource } from "../../core/bytes/source.ts";
import { jpeg } from "../../core/filetypes/jpeg/jpeg.ts";
import type { Find } from "../../core/finds/find.ts";

/** Larger pictures are not drawn: their pixels would not fit in memory. */
const MAX_BYTES = 64 * 1024 * 1024;
const END_OF_IMAGE = Uint8Array.of(0xff, 0xd9);
const TYPES: Record<string, string> = { jpeg: "image/jpeg", png: "image/png" };

/** A JPEG up to where its coded picture breaks off: decoders refuse it for what follows, and for want of an end marker. */
async function soundPart(stream: ByteSource, content: Uint8Array): Promise<Uint8Array> {
  const { length } = await jpeg.measure(stream);
  return content.subarray(0, length);
}

/** Draws a find no larger than `side`. The browser decodes pixels only: nothing of a find is ever run. */
export async function drawPreview(find: Find, source: ByteSource, side: number): Promise<Blob | null> {
  const type = TYPES[find.format];
  const bytes = totalLength(find.extents);
  if (!type || bytes === 0 || bytes > MAX_BYTES) return null;
  const stream = extentsSource(source, find.extents);
  const content = await stream.read(0, bytes);
  const parts = find.condition === "damaged" && find.format === "jpeg" ? [await soundPart(stream, content), END_OF_IMAGE] : [content];
  const picture = await createImageBitmap(new Blob(parts as BlobPart[], { type })).catch(() => null);
  if (!picture) return null;
  try {
    const scale = Math.min(1, side / Math.max(picture.width, picture.height));
    const canvas = new OffscreenCanvas(Math.max(1, Math.round(picture.width * scale)), Math.max(1, Math.round(picture.height * scale)));
    const context = canvas.getContext("2d");
    if (!context) return null;
    context.imageSmoothingQuality = "high";
    context.drawImage(picture, 0, 0, canvas.width, canvas.height);
    return await canvas.convertToBlob({ type: find.format === "png" ? "image/png" : "image/jpeg", quality: 0.85 });
  } finally {
    picture.close();
  }
}
