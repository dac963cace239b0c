import { directoryEntries } from "../../archives/zip-entries.ts";
import {
  CENTRAL,
  CentralHeader,
  DESCRIPTOR,
  Descriptor,
  END,
  END_64,
  End64,
  EndRecord,
  Flag,
  LOCAL,
  LOCATOR_64,
  LocalHeader,
  Locator64,
} from "../../archives/zip-layout.ts";
import type { ByteSource } from "../../bytes/source.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { Followed, FollowedType } from "../file-type.ts";
import { type Format, format, packed, written } from "../format.ts";
import { ZeroWatch } from "./borne-out.ts";
import { ascii, MAX_STEPS, some } from "./follow.ts";

const OFFICE = "application/vnd.openxmlformats-officedocument";
const OPEN = "application/vnd.oasis.opendocument";
const archive = packed("zip", "application/zip", ["zip"], "zip");
const apk = format("apk", "app", { media: "application/vnd.android.package-archive", preview: "list" });
const docx = written("docx", "text", `${OFFICE}.wordprocessingml.document`);
const xlsx = written("xlsx", "text", `${OFFICE}.spreadsheetml.sheet`);
const pptx = written("pptx", "text", `${OFFICE}.presentationml.presentation`);
const odt = written("odt", "text", `${OPEN}.text`);
const ods = written("ods", "text", `${OPEN}.spreadsheet`);
const odp = written("odp", "text", `${OPEN}.presentation`);
const epub = written("epub", "text", "application/epub+zip");

/** A longer name is none. */
const LONGEST_NAME = 1024;
/** Bytes that are read of whatever header stands at a place, and of a Zip64 end record before its size counts. */
const MOST_OF_HEADER = CentralHeader.size;
const END_64_LEAD = 12;
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

/** What an archive is, by its central directory. `content` ends where the archive does. */
async function narrowed(source: ByteSource): Promise<Format> {
  const content = windowSource(source);
  const names: string[] = [];
  for await (const { name } of directoryEntries(content)) if (names.push(name) === MOST_NAMES) break;
  const first = await some(content, 0, LocalHeader.size);
  const kept = names[0] === MEDIA_TYPE && first.length === LocalHeader.size ? await mediaTypeAt(content, contentAt(first, 0)) : "";
  return formatOf(names, kept);
}

/** Where the content behind a local header begins that stands at `at`. */
const contentAt = (head: Uint8Array, at: number): number =>
  at + LocalHeader.size + LocalHeader.nameLength(head, 0) + LocalHeader.extraLength(head, 0);
/** Bytes of a header of the central directory, with what stands behind it. */
const directoryStep = (head: Uint8Array): number =>
  CentralHeader.size + CentralHeader.nameLength(head, 0) + CentralHeader.extraLength(head, 0) + CentralHeader.commentLength(head, 0);

/** ZIP ("APPNOTE.TXT" 6.3.10 §4.3): local headers with sizes, then the central directory, then its end record. */
export const zip: FollowedType = {
  reach: "followed",
  formats: [archive, apk, docx, xlsx, pptx, odt, ods, odp, epub],
  firstBytes: [0x50],
  beginsBytes: LocalHeader.size,
  begins: (bytes, at) =>
    ascii(bytes, at, LOCAL) && LocalHeader.nameLength(bytes, at) > 0 && LocalHeader.nameLength(bytes, at) < LONGEST_NAME,
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
      const head = await some(content, at, MOST_OF_HEADER);
      if (ascii(head, 0, "PK")) borne = at;
      if (ascii(head, 0, LOCAL) && head.length >= LocalHeader.size) {
        const nameLength = LocalHeader.nameLength(head, 0);
        if (names.length < MOST_NAMES) names.push(new TextDecoder().decode(await some(content, at + LocalHeader.size, nameLength)));
        const data = contentAt(head, at);
        // The size may stand behind the data (§4.4.4 bit 3), with a signature of its own.
        const isBehind = (LocalHeader.flags(head, 0) & Flag.descriptor) !== 0 && LocalHeader.compressedSize(head, 0) === 0;
        const size = isBehind ? await toDescriptor(content, data) : LocalHeader.compressedSize(head, 0);
        if (at === 0 && names[0] === MEDIA_TYPE) kept = await mediaTypeAt(content, data);
        if (size === null || data + size > content.size) return told(data + MOST_OF_LAST, false);
        at = data + size;
      } else if (ascii(head, 0, DESCRIPTOR)) at += Descriptor.size;
      else if (ascii(head, 0, CENTRAL) && head.length >= CentralHeader.size) at += directoryStep(head);
      else if (ascii(head, 0, END) && head.length >= EndRecord.size)
        return told(at + EndRecord.size + EndRecord.commentLength(head, 0), true);
      // Its size does not count what stands before it (§4.3.14.1).
      else if (ascii(head, 0, END_64) && head.length >= END_64_LEAD) at += END_64_LEAD + End64.recordSize(head, 0);
      else if (ascii(head, 0, LOCATOR_64)) at += Locator64.size;
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
    const bytes = await some(content, at, STEP + Descriptor.size);
    if (zeros.sees(bytes)) return null;
    for (let found = bytes.indexOf(0x50); found >= 0 && found < STEP; found = bytes.indexOf(0x50, found + 1))
      if (ascii(bytes, found, DESCRIPTOR) && Descriptor.compressedSize(bytes, found) === at + found - from) return at + found - from;
  }
  return null;
}
