/** Lines of a text's beginning that are shown on the wall, and letters of each. */
const MOST_LINES = 14;
const MOST_LETTERS = 90;

/** One letter in so many that no text holds: then it is none, whatever its name says. */
const STRANGE_ONE_IN = 20;
/** Controls of Unicode but for those that end lines and set columns, and what stands for what is no letter. */
// biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is looked for
const STRANGE = /[\u0000-\u0008\u000e-\u001f\u007f-\u009f\ufffd]/g;

export const isNoText = (text: string): boolean => (text.match(STRANGE)?.length ?? 0) * STRANGE_ONE_IN > text.length;

/** The first lines of a text, as far as they say something. Null: it is none, whatever its name says. */
export function firstLines(text: string): string[] | null {
  if (isNoText(text)) return null;
  return text
    .trimEnd()
    .split(/\r\n|\r|\n/)
    .map((line) => line.replaceAll("\t", "  ").trimEnd().slice(0, MOST_LETTERS))
    .filter((line, index, all) => line !== "" || all[index - 1] !== "")
    .slice(0, MOST_LINES);
}
