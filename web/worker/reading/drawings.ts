import type { ByteSource } from "../../../core/bytes/source.ts";
import { decodedText } from "../looking/letters.ts";

/** Bytes of a drawing that is shown: it is drawn by the page itself. */
const MOST_BYTES = 2 * 1024 * 1024;
/** Uses of one part by another: they can be nested so that a few lines draw millions of shapes. */
const MOST_USES = 400;
/** Filters and patterns cost far more than lines do. */
const MOST_COSTLY = 200;

/**
 * A drawing (SVG 2) that a page may show as an image: there it runs nothing, and asks for nothing (SVG Integration, "secure static mode"). What is
 * made to cost time without end is not.
 * @returns the drawing, or why it is not shown
 */
export async function drawing(content: ByteSource): Promise<{ readonly picture: Blob } | { readonly word: string }> {
  if (content.size > MOST_BYTES) return { word: "too large to be shown here: a drawing of many shapes" };
  const bytes = await content.read(0, content.size);
  const text = decodedText(bytes, false);
  const count = (pattern: RegExp) => text.match(pattern)?.length ?? 0;
  if (/<!ENTITY/i.test(text) || count(/<(\w+:)?use\b/gi) > MOST_USES || count(/<(\w+:)?(filter|pattern|mask|fe\w+)\b/gi) > MOST_COSTLY)
    return { word: "made to cost time: it is not drawn" };
  return { picture: new Blob([bytes as BlobPart], { type: "image/svg+xml" }) };
}
