import type { ByteSource } from "../../../core/bytes/source.ts";
import { holdsPictures, readerOf } from "../looking/decodable.ts";
import { decodedText } from "../looking/letters.ts";
import { decoded, MOST_BYTES } from "./decoders.ts";
import { isNoText } from "./first-lines.ts";
import type { InnerAnswer, MarkupAnswer, TextAnswer } from "./protocol.ts";

/** Letters that tell whether it is a text at all. */
const SAMPLE = 4096;

/** A text's beginning, `most` bytes of it; of a document, what is written in it. */
export async function textOf(format: string, content: ByteSource, most: number): Promise<TextAnswer> {
  const reader = readerOf(format);
  if (reader !== null) {
    if (content.size > MOST_BYTES) return { word: "It is too large to be read here: hand it over." };
    const text = await decoded(content, (desk, bytes) => desk.text(format, bytes));
    if (text === "") return { word: "Nothing is written in it that could be read." };
    return { text: text.slice(0, most), goesOn: text.length > most };
  }
  const length = Math.min(most, content.size);
  const text = decodedText(await content.read(0, length), length < content.size);
  return isNoText(text.slice(0, SAMPLE)) ? { word: "It is no text, whatever its name says." } : { text, goesOn: length < content.size };
}

/** A page of the web as markup that only lays its text out: see safe-page.ts. */
export async function layOf(content: ByteSource): Promise<MarkupAnswer> {
  if (content.size > MOST_BYTES) return { word: "It is too large to be read here: hand it over." };
  return { markup: await decoded(content, (desk, bytes) => desk.laidOut(bytes)) };
}

/** The pictures that stand in a document, no side of them longer than `side`. */
export async function picturesIn(format: string, content: ByteSource, side: number): Promise<InnerAnswer> {
  if (!holdsPictures(format) || content.size > MOST_BYTES) return { pictures: [], left: 0 };
  return decoded(content, (desk, bytes) => desk.innerPictures(format, bytes, side));
}
