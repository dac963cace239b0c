import { u16, u32 } from "../../bytes/layout.ts";
import type { ByteSource } from "../../bytes/source.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { Followed, FollowedType } from "../file-type.ts";
import { type Format, format, packed, written } from "../format.ts";
import { ZeroWatch } from "./borne-out.ts";
import { ascii, MAX_STEPS, some } from "./follow.ts";

const le16 = u16(0);
const le32 = u32(0);
const OFFICE = "application/vnd.openxmlformats-officedocument";
const OPEN = "application/vnd.oasis.opendocument";
const archive = packed("zip", "application/zip");
const apk = format("apk", "app", { media: "application/vnd.android.package-archive", preview: "list" });
const docx = written("docx", "text", `${OFFICE}.wordprocessingml.document`);
const xlsx = written("xlsx", "text", `${OFFICE}.spreadsheetml.sheet`);
const pptx = written("pptx", "text", `${OFFICE}.presentationml.presentation`);
const odt = written("odt", "text", `${OPEN}.text`);
const ods = written("ods", "text", `${OPEN}.spreadsheet`);
const odp = written("odp", "text", `${OPEN}.presentation`);
const epub = written("epub", "text", "application/epub+zip");

/** Names of entries that are kept to tell what an archive is. */
const MOST_NAMES = 4096;
/** The first entry of an open document, stored as it is, holds its media type (ODF 1.3 part 2 §3.3; EPUB OCF 3.2 §4.3). */
const MEDIA_TYPE = "mimetype";
const LONGEST_TYPE = 80;
const mediaTypeAt = async (content: ByteSource, at: number): Promise<string> =>
  new TextDecoder("latin1").decode(await some(content, at, LONGEST_TYPE));
const BY_MEDIA_TYPE = [ods, odp, epub, odt];

function formatOf(names: readonly string[], kept: string): Format {
  const has = (start: string) => names.some((name) => name.startsWith(start));
  if (has("AndroidManifest.xml")) return apk;
  if (has("word/")) return docx;
  if (has("xl/")) return xlsx;
  if (has("ppt/")) return pptx;
  if (names[0] !== MEDIA_TYPE) return archive;
  return BY_MEDIA_TYPE.find(({ media }) => media && kept.startsWith(media)) ?? odt;
}

/** Bytes from the end in which the central directory's end record must begin (§4.3.16: a comment of at most 65,535). */
const END_RECORD = 22 + 65_535;

/** What an archive is, by its central directory. `content` ends where the archive does. */
async function narrowed(source: ByteSource): Promise<Format> {
  const content = windowSource(source);
  const tail = Math.max(0, content.size - END_RECORD);
  const bytes = await some(content, tail, END_RECORD);
  let end = -1;
  for (let at = bytes.length - 22; at >= 0 && end < 0; at--) if (ascii(bytes, at, "PK\x05\x06")) end = at;
  if (end < 0) return archive;
  const names: string[] = [];
  let at = le32(bytes, end + 16);
  for (; names.length < MOST_NAMES; ) {
    const head = await some(content, at, 46);
    if (head.length < 46 || !ascii(head, 0, "PK\x01\x02")) break;
    names.push(new TextDecoder().decode(await some(content, at + 46, le16(head, 28))));
    at += 46 + le16(head, 28) + le16(head, 30) + le16(head, 32);
  }
  const first = await some(content, 0, 30);
  const kept = names[0] === MEDIA_TYPE ? await mediaTypeAt(content, 30 + le16(first, 26) + le16(first, 28)) : "";
  return formatOf(names, kept);
}

/** ZIP ("APPNOTE.TXT" 6.3.10 §4.3): local headers with sizes, then the central directory, then its end record. */
export const zip: FollowedType = {
  reach: "followed",
  formats: [archive, apk, docx, xlsx, pptx, odt, ods, odp, epub],
  firstBytes: [0x50],
  beginsBytes: 30,
  begins: (bytes, at) => ascii(bytes, at, "PK\x03\x04") && le16(bytes, at + 26) > 0 && le16(bytes, at + 26) < 1024,
  narrow: narrowed,
  async follow(source) {
    const content = windowSource(source);
    const names: string[] = [];
    const told = (length: number, ends: boolean): Followed => ({
      format: formatOf(names, kept),
      length: Math.min(length, content.size),
      ends,
    });
    let kept = "";
    let at = 0;
    /** Up to here headers bear out what they say. */
    let borne = 0;
    for (let steps = 0; steps < MAX_STEPS; steps++) {
      const head = await some(content, at, 46);
      if (ascii(head, 0, "PK")) borne = at;
      if (ascii(head, 0, "PK\x03\x04") && head.length >= 30) {
        const nameLength = le16(head, 26);
        if (names.length < MOST_NAMES) names.push(new TextDecoder().decode(await some(content, at + 30, nameLength)));
        const data = at + 30 + nameLength + le16(head, 28);
        // Bit 3: the size stands behind the data, with a signature of its own.
        const size = (le16(head, 6) & 8) !== 0 && le32(head, 18) === 0 ? await toDescriptor(content, data) : le32(head, 18);
        if (at === 0 && names[0] === MEDIA_TYPE) kept = await mediaTypeAt(content, data);
        if (size === null || data + size > content.size) return told(data + MOST_OF_LAST, false);
        at = data + size;
      } else if (ascii(head, 0, "PK\x07\x08")) at += 16;
      else if (ascii(head, 0, "PK\x01\x02") && head.length >= 46) at += 46 + le16(head, 28) + le16(head, 30) + le16(head, 32);
      else if (ascii(head, 0, "PK\x05\x06") && head.length >= 22) return told(at + 22 + le16(head, 20), true);
      else if (ascii(head, 0, "PK\x06\x06")) at += 12 + le32(head, 4);
      else if (ascii(head, 0, "PK\x06\x07")) at += 20;
      else break;
    }
    return told(Math.min(at, borne + MOST_OF_LAST), false);
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
