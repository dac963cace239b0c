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
