import type { ByteSource } from "../../bytes/source.ts";
import type { FollowedType, Pixels } from "../file-type.ts";
import { type Format, format, picture, written } from "../format.ts";
import { ascii, some } from "./follow.ts";

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

const plain = written("txt", "text", "text/plain", ["txt", "md", "log", "srt", "ini", "conf"]);
const csv = { ...written("csv", "text", "text/csv", ["csv", "tsv"]), holds: "entries" as const };
const json = { ...written("json", "text", "application/json", ["json", "geojson"]), holds: "entries" as const };
const xml = written("xml", "text", "application/xml", ["xml", "gpx", "kml"]);
const html = written("html", "text", "text/html", ["html", "htm", "xhtml", "mht"]);
const rtf = written("rtf", "text", "application/rtf");
const eml = written("eml", "text", "message/rfc822");
const svg = picture("svg", "image/svg+xml");
const playlist = format("m3u", "other", { endings: ["m3u", "m3u8", "pls"], preview: "text", media: "audio/x-mpegurl" });
const vcf = { ...written("vcf", "text", "text/vcard", ["vcf", "vcard"]), holds: "entries" as const };
const ics = { ...written("ics", "text", "text/calendar", ["ics", "vcs"]), holds: "entries" as const };

/** Texts that say what they are, and how. Fields of an e-mail: RFC 5322 §3.6, as the first one that servers and programs write. */
const WORDS: readonly (readonly [RegExp, Format])[] = [
  [/^\ufeff?BEGIN:VCARD/i, vcf],
  [/^\ufeff?BEGIN:VCALENDAR/i, ics],
  [/^\ufeff?\s*(<\?xml[^>]*>\s*)?(<!--[^>]*-->\s*)?(<!DOCTYPE svg[^>]*>\s*)?<svg[\s>]/i, svg],
  [/^\ufeff?\s*(<\?xml[^>]*>\s*)?(<!DOCTYPE html|<html)/i, html],
  [/^\ufeff?<\?xml/i, xml],
  [/^\{\\rtf1/, rtf],
  [/^#EXTM3U/, playlist],
  [
    /^(Return-Path|Received|Delivered-To|Message-ID|MIME-Version|X-[\w-]+|From|Date|Subject): [^\r\n]*\r?\n([ \t][^\r\n]*\r?\n)*[A-Z][\w-]*: /,
    eml,
  ],
  [/^\ufeff?\s*[[{]["[{\s]/, json],
];

function formatOf(head: string): Format {
  const known = WORDS.find(([pattern]) => pattern.test(head))?.[1];
  if (known) return known;
  const lines = head.split(/\r?\n/).slice(0, 6);
  const columns = lines.slice(0, -1).map((line) => line.split(/[,;\t]/).length);
  return columns.length >= 2 && columns[0] > 2 && columns.every((count) => count === columns[0]) ? csv : plain;
}

/** SVG 2 §8.2, §8.6: width and height in pixels, else the sides of its view box. */
function drawnPixels(head: string): Pixels | null {
  const [tag] = /<svg[^>]*>/i.exec(head) ?? [];
  if (!tag) return null;
  const side = (name: string) => Number(new RegExp(`\\s${name}\\s*=\\s*["']\\s*([\\d.]+)\\s*(?:px)?\\s*["']`, "i").exec(tag)?.[1] ?? 0);
  const box = /viewBox\s*=\s*["']\s*([-\d.eE]+)[\s,]+([-\d.eE]+)[\s,]+([\d.eE+]+)[\s,]+([\d.eE+]+)/i.exec(tag);
  const [width, height] = [side("width") || Number(box?.[3] ?? 0), side("height") || Number(box?.[4] ?? 0)].map(Math.round);
  return width > 0 && height > 0 ? { width, height } : null;
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
export const text: FollowedType = {
  reach: "followed",
  formats: [plain, csv, json, xml, html, rtf, eml, svg, playlist, vcf, ics],
  firstBytes: Array.from(TEXT.keys()).filter((byte) => TEXT[byte] === 1),
  byChance: true,
  narrow: async (content) => formatOf(new TextDecoder().decode(await some(content, 0, 2048))),
  async pixels(content) {
    const head = new TextDecoder().decode(await some(content, 0, 2048));
    const sides = drawnPixels(head);
    return sides && formatOf(head) === svg ? sides : null;
  },
  beginsBytes: LEAST,
  begins: (bytes, at) => {
    for (let index = 0; index < LEAST; index++) if (TEXT[bytes[at + index]] === 0) return false;
    return bytes[at] !== 0x20 || !ascii(bytes, at, "        ");
  },
  async follow(content) {
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
    return { format: formatOf(head), length, ends };
  },
};
