import type { ByteSource } from "../../bytes/source.ts";
import { ascii, type Declared, type DeclaredType, some } from "./declared.ts";

const STEP = 256 * 1024;
const MOST = 64 * 1024 * 1024;
/** Bytes of text before a beginning without a word of its own is taken for one. */
const LEAST = 48;

/** May this byte stand in a text (UTF-8, or one byte a letter)? A table: it is asked for every byte of free space that reads as text. */
const TEXT = Uint8Array.from({ length: 256 }, (_, byte) =>
  Number((byte >= 0x20 && byte !== 0x7f) || byte === 0x09 || byte === 0x0a || byte === 0x0d),
);

/** Bytes before a place that must all be text before it is taken for the middle of one: single bytes of anything may look so. */
const BEFORE = 16;
export function goesOnAt(bytes: Uint8Array, at: number): boolean {
  for (let index = Math.max(0, at - BEFORE); index < at; index++) if (TEXT[bytes[index]] === 0) return false;
  return at > 0;
}

/** Texts that say what they are, and how. */
const WORDS: readonly (readonly [RegExp, Declared["format"]])[] = [
  [/^BEGIN:VCARD/i, "vcf"],
  [/^BEGIN:VCALENDAR/i, "ics"],
  [/^<\?xml/i, "xml"],
  [/^<!DOCTYPE html|^<html/i, "html"],
  [/^\s*[[{]["[{\s]/, "json"],
];

function formatOf(head: string): string {
  const known = WORDS.find(([pattern]) => pattern.test(head))?.[1];
  if (known) return known;
  const lines = head.split(/\r?\n/).slice(0, 6);
  const columns = lines.slice(0, -1).map((line) => line.split(/[,;\t]/).length);
  return columns.length >= 2 && columns[0] > 2 && columns.every((count) => count === columns[0]) ? "csv" : "txt";
}

/** Every so many bytes are looked at; where one is no text, as many before it as are looked at one by one. */
const STRIDE = 16;
const CLOSE = 4096;

/** How many of these bytes are text from the first one on. Looked at in strides up to the first zero: free space is full of text. */
function textRun(bytes: Uint8Array): number {
  const zero = bytes.indexOf(0);
  const most = zero < 0 ? bytes.length : zero;
  let far = 0;
  while (far < most && TEXT[bytes[far]] === 1) far += STRIDE;
  let end = Math.max(0, Math.min(far, most) - CLOSE);
  while (end < most && end < far + STRIDE && TEXT[bytes[end]] === 1) end++;
  return end;
}

/** Bytes of text from the beginning on: drivers clear the rest of a file's last page, so its end is followed by zeros. */
async function textLength(content: ByteSource): Promise<{ length: number; ends: boolean }> {
  for (let at = 0; at < Math.min(content.size, MOST); at += STEP) {
    const bytes = await some(content, at, STEP);
    const end = textRun(bytes);
    if (end < bytes.length) return { length: at + end, ends: bytes[end] === 0 };
  }
  return { length: Math.min(content.size, MOST), ends: false };
}

/** Plain text: no length of its own, it goes as far as it reads. */
export const text: DeclaredType = {
  firstByte: null,
  beginsBytes: LEAST,
  begins: (bytes, at) => {
    for (let index = 0; index < LEAST; index++) if (TEXT[bytes[at + index]] === 0) return false;
    return bytes[at] !== 0x20 || !ascii(bytes, at, "        ");
  },
  async declare(content) {
    const { length, ends } = await textLength(content);
    const head = new TextDecoder().decode(await some(content, 0, 2048));
    try {
      // Replacement characters tell that it is no UTF-8; then it must be long enough to be no chance.
      new TextDecoder("utf-8", { fatal: true }).decode(
        (await some(content, 0, Math.min(length, 4096))).subarray(0, Math.min(length, 4090)),
        { stream: true },
      );
    } catch {
      return null;
    }
    return { format: formatOf(head), kind: "document", length, ends };
  },
};
