import type { ByteSource } from "../../../core/bytes/source.ts";

/** Bytes and lines of a text's beginning that are shown on the wall. */
const MOST_BYTES = 4096;
const MOST_LINES = 14;
const MOST_LETTERS = 90;

/** What an encoding begins with (Unicode Standard §23.8, byte order mark). */
const MARKS: readonly (readonly [string, readonly number[]])[] = [
  ["utf-8", [0xef, 0xbb, 0xbf]],
  ["utf-16le", [0xff, 0xfe]],
  ["utf-16be", [0xfe, 0xff]],
];

/** Bytes as text: by their mark, else as UTF-8, else one letter a byte. `isCut`: the last letter may not be whole. */
export function decodedText(bytes: Uint8Array, isCut: boolean): string {
  const mark = MARKS.find(([, begins]) => begins.every((byte, index) => bytes[index] === byte));
  if (mark) return new TextDecoder(mark[0]).decode(bytes);
  try {
    return new TextDecoder("utf-8", { fatal: true }).decode(bytes, { stream: isCut });
  } catch {
    return new TextDecoder("windows-1252").decode(bytes);
  }
}

/** One letter in so many that no text holds: then it is none, whatever its name says. */
const STRANGE_ONE_IN = 20;
/** Controls of Unicode but for those that end lines and set columns, and what stands for what is no letter. */
// biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is looked for
const STRANGE = /[\u0000-\u0008\u000e-\u001f\u007f-\u009f\ufffd]/g;

export const isNoText = (text: string): boolean => (text.match(STRANGE)?.length ?? 0) * STRANGE_ONE_IN > text.length;

/** The first lines of a text, as far as they say something. Null: it is none, whatever its name says. */
export async function firstLines(content: ByteSource): Promise<string[] | null> {
  const length = Math.min(MOST_BYTES, content.size);
  const text = decodedText(await content.read(0, length), length < content.size);
  if (isNoText(text)) return null;
  return text
    .trimEnd()
    .split(/\r\n|\r|\n/)
    .map((line) => line.replaceAll("\t", "  ").trimEnd().slice(0, MOST_LETTERS))
    .filter((line, index, all) => line !== "" || all[index - 1] !== "")
    .slice(0, MOST_LINES);
}
