import { some } from "../bytes/pieces.ts";
import type { ByteSource } from "../bytes/source.ts";

/** Bytes that are looked at in each of three places. */
const LOOKED_AT = 16 * 1024;
/** Signs that text does not hold: control characters but tab, line ends, form feed and escape (ECMA-48), and what is no UTF-8. */
// biome-ignore lint/suspicious/noControlCharactersInRegex: these are what is looked for.
const NO_TEXT = /[\u0000-\u0008\u000b\u000e-\u001a\u001c-\u001f\ufffd]/;
/** Letters that may be cut at either end of a place. */
const CUT = 3;

/** Is it text from its beginning to its end, as far as three places tell? UTF-8, or UTF-16 that says so by its mark (Unicode Standard, 23.8). */
export async function isPlainText(source: ByteSource): Promise<boolean> {
  const head = await some(source, 0, 2);
  const wide = head[0] === 0xff && head[1] === 0xfe ? "utf-16le" : head[0] === 0xfe && head[1] === 0xff ? "utf-16be" : null;
  const decoder = new TextDecoder(wide ?? "utf-8");
  for (const part of [0, 0.5, 1]) {
    const at = Math.max(0, Math.floor((source.size - LOOKED_AT) * part));
    const bytes = await some(source, wide ? at & ~1 : at, LOOKED_AT);
    if (NO_TEXT.test(decoder.decode(bytes).slice(CUT, -CUT))) return false;
  }
  return true;
}
