/** Longest file name written, in letters. */
const MAX_NAME = 120;
/** Bytes that a name may have (UTF-8): what common file systems allow (POSIX.1-2017 <limits.h>, NAME_MAX, as Linux sets it). */
const MAX_BYTES = 255;

const encoder = new TextEncoder();
const bytesOf = (text: string): number => encoder.encode(text).length;

/** A name whose base is cut, letter by letter, until all of it fits. */
function fitting(base: string, ending: string): string {
  const letters = Array.from(base).slice(0, MAX_NAME);
  while (letters.length > 0 && bytesOf(letters.join("")) + bytesOf(ending) > MAX_BYTES) letters.pop();
  return letters.join("") + ending;
}
/** Names that some systems keep for devices, with or without an ending. */
const RESERVED = /^(con|prn|aux|nul|com\d|lpt\d)(\.|$)/i;

/**
 * A name that can be written anywhere and leads nowhere else: no separators, no control or direction characters,
 * none of the characters that other systems refuse, no leading or trailing dots and spaces.
 */
export function cleanName(name: string): string {
  const cleaned = name
    .normalize("NFC")
    .toWellFormed()
    // biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is taken out
    .replace(/[\u0000-\u001f\u007f-\u009f\u200e\u200f\u202a-\u202e\u2066-\u2069\ufeff]/g, "")
    .replace(/[\\/:*?"<>|]/g, "_")
    .replace(/^[.\s]+|[.\s]+$/g, "");
  const dot = cleaned.lastIndexOf(".");
  const ending = dot > 0 && cleaned.length - dot <= 12 ? cleaned.slice(dot) : "";
  const base = cleaned.slice(0, cleaned.length - ending.length);
  const named = fitting(base, ending) || "unnamed";
  return RESERVED.test(named) ? `_${named}` : named;
}

/** The name, or the name numbered, that was not taken yet. Upper and lower case count as the same. */
export function freeName(name: string, taken: Set<string>): string {
  const dot = name.lastIndexOf(".");
  const base = dot > 0 ? name.slice(0, dot) : name;
  const ending = dot > 0 ? name.slice(dot) : "";
  let candidate = name;
  for (let number = 2; taken.has(candidate.toLowerCase()); number++) candidate = fitting(base, ` (${number})${ending}`);
  taken.add(candidate.toLowerCase());
  return candidate;
}
