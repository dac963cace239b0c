import { u16, u32, u32be } from "../../bytes/layout.ts";
import type { ByteSource } from "../../bytes/source.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { Kind } from "../file-type.ts";
import { ZeroWatch } from "./borne-out.ts";
import { ascii, type Declared, type DeclaredType, some } from "./declared.ts";

const le16 = u16(0);
const le32 = u32(0);
const be32 = u32be(0);
/** Steps before we stop believing. */
const MAX_STEPS = 1_000_000;

/** ISO/IEC 14496-12 §4.2: boxes one after the other, each with its size and type. */
const TOP_BOXES = new Set([
  "ftyp",
  "moov",
  "mdat",
  "free",
  "skip",
  "wide",
  "uuid",
  "moof",
  "mfra",
  "meta",
  "pnot",
  "styp",
  "sidx",
  "pdin",
  "udta",
  "emsg",
]);
export const isoMedia: DeclaredType = {
  firstByte: 0,
  beginsBytes: 12,
  begins: (bytes, at) => ascii(bytes, at + 4, "ftyp") && be32(bytes, at) >= 12 && be32(bytes, at) <= 1024,
  async declare(source) {
    const content = windowSource(source);
    const brand = String.fromCharCode(...(await some(content, 8, 4)));
    const [format, kind] = kindOfBrand(brand);
    let at = 0;
    let media = false;
    for (let steps = 0; steps < MAX_STEPS; steps++) {
      const head = await some(content, at, 16);
      const type = String.fromCharCode(...head.subarray(4, 8));
      if (head.length < 8 || !TOP_BOXES.has(type) || (steps > 0 && type === "ftyp")) break;
      let size = be32(head, 0);
      if (size === 1 && head.length === 16) size = be32(head, 8) * 2 ** 32 + be32(head, 12);
      if (size < 8) break;
      media ||= type === "mdat" || type === "moov" || type === "meta";
      if (at + size > content.size) return { format, kind, length: content.size, ends: false };
      at += size;
    }
    return media ? { format, kind, length: at, ends: true } : null;
  },
};

function kindOfBrand(brand: string): [string, Kind] {
  if (/^(heic|heix|hevc|mif1|msf1)/.test(brand)) return ["heic", "photo"];
  if (brand.startsWith("avif")) return ["avif", "photo"];
  if (brand.startsWith("M4A")) return ["m4a", "audio"];
  if (brand.startsWith("qt")) return ["mov", "video"];
  return [brand.startsWith("3g") ? "3gp" : "mp4", "video"];
}

/** ZIP ("APPNOTE.TXT" 6.3.10 §4.3): local headers with sizes, then the central directory, then its end record. */
export const zip: DeclaredType = {
  firstByte: 0x50,
  beginsBytes: 30,
  begins: (bytes, at) => ascii(bytes, at, "PK\x03\x04") && le16(bytes, at + 26) > 0 && le16(bytes, at + 26) < 1024,
  async declare(source) {
    const content = windowSource(source);
    const names: string[] = [];
    let at = 0;
    /** Up to here headers bear out what they say. */
    let borne = 0;
    for (let steps = 0; steps < MAX_STEPS; steps++) {
      const head = await some(content, at, 46);
      if (ascii(head, 0, "PK")) borne = at;
      if (ascii(head, 0, "PK\x03\x04") && head.length >= 30) {
        const nameLength = le16(head, 26);
        names.push(new TextDecoder().decode(await some(content, at + 30, nameLength)));
        const data = at + 30 + nameLength + le16(head, 28);
        // Bit 3: the size stands behind the data, with a signature of its own.
        const size = (le16(head, 6) & 8) !== 0 && le32(head, 18) === 0 ? await toDescriptor(content, data) : le32(head, 18);
        if (size === null || data + size > content.size)
          return { ...kindOfNames(names), length: Math.min(data + MOST_OF_LAST, content.size), ends: false };
        at = data + size;
      } else if (ascii(head, 0, "PK\x07\x08")) at += 16;
      else if (ascii(head, 0, "PK\x01\x02") && head.length >= 46) at += 46 + le16(head, 28) + le16(head, 30) + le16(head, 32);
      else if (ascii(head, 0, "PK\x05\x06") && head.length >= 22)
        return { ...kindOfNames(names), length: Math.min(content.size, at + 22 + le16(head, 20)), ends: true };
      else if (ascii(head, 0, "PK\x06\x06")) at += 12 + le32(head, 4);
      else if (ascii(head, 0, "PK\x06\x07")) at += 20;
      else break;
    }
    return { ...kindOfNames(names), length: Math.min(at, borne + MOST_OF_LAST), ends: false };
  },
};

/** Bytes of the last entry that are taken where nothing behind it bears out how long it is. */
const MOST_OF_LAST = 1024 * 1024;

/** Bytes up to a data descriptor's signature, where its size says the same. */
async function toDescriptor(content: ByteSource, from: number): Promise<number | null> {
  const STEP = 64 * 1024;
  const zeros = new ZeroWatch();
  for (let at = from; at < content.size && at - from < 256 * 1024 * 1024; at += STEP) {
    const bytes = await some(content, at, STEP + 16);
    if (zeros.sees(bytes)) return null;
    for (let found = bytes.indexOf(0x50); found >= 0 && found < STEP; found = bytes.indexOf(0x50, found + 1))
      if (ascii(bytes, found, "PK\x07\x08") && le32(bytes, found + 8) === at + found - from) return at + found - from;
  }
  return null;
}

function kindOfNames(names: readonly string[]): Pick<Declared, "format" | "kind"> {
  const has = (start: string) => names.some((name) => name.startsWith(start));
  if (has("AndroidManifest.xml")) return { format: "apk", kind: "app" };
  if (has("word/")) return { format: "docx", kind: "document" };
  if (has("xl/")) return { format: "xlsx", kind: "document" };
  if (has("ppt/")) return { format: "pptx", kind: "document" };
  if (names[0] === "mimetype") return { format: "odt", kind: "document" };
  return { format: "zip", kind: "archive" };
}

/** Ogg (RFC 3533 §6): pages with a table of segment lengths; the last one of a stream bears flag 4. */
export const ogg: DeclaredType = {
  firstByte: 0x4f,
  beginsBytes: 27,
  begins: (bytes, at) => ascii(bytes, at, "OggS\0\x02"),
  async declare(source) {
    const content = windowSource(source);
    const first = await some(content, 0, 64);
    const format = String.fromCharCode(...first).includes("OpusHead") ? "opus" : "ogg";
    let at = 0;
    for (let steps = 0; steps < MAX_STEPS; steps++) {
      const head = await some(content, at, 27 + 255);
      if (head.length < 27 || !ascii(head, 0, "OggS\0") || head.length < 27 + head[26]) break;
      const length = 27 + head[26] + head.subarray(27, 27 + head[26]).reduce((sum, part) => sum + part, 0);
      if (at + length > content.size) break;
      at += length;
      if ((head[5] & 4) !== 0) return { format, kind: "audio", length: at, ends: true };
    }
    return at === 0 ? null : { format, kind: "audio", length: at, ends: false };
  },
};

/** GIF89a specification: blocks with their lengths, ended by a trailer (3B). */
export const gif: DeclaredType = {
  firstByte: 0x47,
  beginsBytes: 13,
  begins: (bytes, at) => ascii(bytes, at, "GIF87a") || ascii(bytes, at, "GIF89a"),
  async declare(source) {
    const content = windowSource(source);
    const colours = (flags: number) => ((flags & 0x80) !== 0 ? 3 * 2 ** ((flags & 7) + 1) : 0);
    const broken = (length: number): Declared => ({ format: "gif", kind: "photo", length: Math.min(length, content.size), ends: false });
    let at = 13 + colours((await some(content, 10, 1))[0]);
    for (let steps = 0; steps < MAX_STEPS; steps++) {
      const head = await some(content, at, 11);
      if (head[0] === 0x3b) return { format: "gif", kind: "photo", length: at + 1, ends: true };
      if (head[0] === 0x21) at += 2;
      else if (head[0] === 0x2c && head.length >= 10) at += 11 + colours(head[9]);
      else return broken(at);
      for (let length = 1; length > 0; ) {
        const [next] = await some(content, at, 1);
        if (next === undefined || ++steps > MAX_STEPS) return broken(at);
        length = next;
        at += 1 + length;
      }
    }
    return broken(at);
  },
};

/** Bytes of a PDF in which no object begins or ends: the longest stream that is believed. */
const MOST_SILENT = 32 * 1024 * 1024;
const ENDOBJ = [0x65, 0x6e, 0x64, 0x6f, 0x62, 0x6a];
function holdsObjects(bytes: Uint8Array): boolean {
  for (let at = bytes.indexOf(ENDOBJ[0]); at >= 0; at = bytes.indexOf(ENDOBJ[0], at + 1))
    if (ENDOBJ.every((byte, index) => bytes[at + index] === byte)) return true;
  return false;
}

/** ISO 32000-1 §7.5.5: `%%EOF` ends it; an update may go on behind it with another object. */
export const pdf: DeclaredType = {
  firstByte: 0x25,
  beginsBytes: 8,
  begins: (bytes, at) => ascii(bytes, at, "%PDF-1.") || ascii(bytes, at, "%PDF-2."),
  async declare(content) {
    const STEP = 256 * 1024;
    const MOST = 256 * 1024 * 1024;
    const zeros = new ZeroWatch();
    let spoken = 0;
    for (let at = 0; at < Math.min(content.size, MOST); at += STEP) {
      const bytes = await some(content, at, STEP + 64);
      if (holdsObjects(bytes)) spoken = at;
      // Its objects follow each other: where none is met for long, or nothing was ever written, it was cut off.
      if (zeros.sees(bytes) || at - spoken > MOST_SILENT)
        return { format: "pdf", kind: "document", length: Math.min(content.size, spoken + STEP), ends: false };
      for (let found = bytes.indexOf(0x25); found >= 0 && found < STEP; found = bytes.indexOf(0x25, found + 1)) {
        if (!ascii(bytes, found, "%%EOF")) continue;
        let end = found + 5;
        if (bytes[end] === 0x0d) end++;
        if (bytes[end] === 0x0a) end++;
        const goesOn = bytes[end] >= 0x30 && bytes[end] <= 0x39;
        if (!goesOn) return { format: "pdf", kind: "document", length: at + end, ends: true };
      }
    }
    return { format: "pdf", kind: "document", length: Math.min(content.size, STEP), ends: false };
  },
};
