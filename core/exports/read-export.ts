import { Unzlib } from "fflate";
import type { RecordKind, RecordValues } from "../finds/record.ts";
import type { Entry, Lacking } from "./components.ts";
import { isSmsBackup } from "./formats.ts";
import { readEvents } from "./icalendar.ts";
import { isMessageTable, readCsvMessages, readJsonMessages } from "./messages.ts";
import { readVcards } from "./vcard.ts";

export interface ExportReader {
  readonly kind: RecordKind;
  /** Could the file be such an export, by its first bytes? Only then it is read. */
  mayBe(head: Uint8Array): boolean;
  /** `lacking` hears of what is in it and not among the entries. */
  read(bytes: Uint8Array, lacking: Lacking): Iterable<Entry<RecordValues>>;
  /** What is said where it gives no entry. Null: nothing, since many files of this format are something else. */
  nothing(head: Uint8Array): string | null;
}

/** Bytes that tell what a file may be. */
export const EXPORT_HEAD = 4096;
/** Exports longer than this are not read into memory. */
export const MAX_EXPORT = 128 * 1024 * 1024;

/** Text in UTF-8, or in UTF-16 where its mark says so (Unicode Standard, 23.8): spreadsheets write it. */
const text = (bytes: Uint8Array): string =>
  new TextDecoder(
    bytes[0] === 0xff && bytes[1] === 0xfe ? "utf-16le" : bytes[0] === 0xfe && bytes[1] === 0xff ? "utf-16be" : "utf-8",
  ).decode(bytes);

/** What is packed as one zlib stream (RFC 1950), as far as it goes and up to `most` bytes. */
function unpacked(bytes: Uint8Array, most: number, lacking: Lacking): Uint8Array {
  const pieces: Uint8Array[] = [];
  let length = 0;
  const inflate = new Unzlib((piece) => {
    pieces.push(piece);
    length += piece.length;
  });
  try {
    for (let at = 0; at < bytes.length && length < most; at += 65_536) inflate.push(bytes.subarray(at, at + 65_536));
    if (length < most) inflate.push(new Uint8Array(0), true);
  } catch {
    // What came out until then counts.
    lacking(`it is cut off or broken after ${length} unpacked bytes: what followed is lost`);
  }
  if (length >= most) lacking(`only its first ${most} bytes are read`);
  const whole = new Uint8Array(Math.min(length, most));
  let at = 0;
  for (const piece of pieces) {
    whole.set(piece.subarray(0, Math.max(0, whole.length - at)), Math.min(at, whole.length));
    at += piece.length;
  }
  return whole;
}

const firstLine = (head: Uint8Array): string => text(head).split(/\r?\n/, 1)[0].slice(0, 120);
/** Keys of messages in JSON: a text, and a time. */
const NAMES_MESSAGES = [/"(text|body|message|content)"\s*:/i, /"(date|time|datetime|timestamp|sent|sent_?at)"\s*:/i];

const READERS: Record<string, ExportReader> = {
  vcf: {
    kind: "contact",
    mayBe: (head) => /BEGIN:VCARD/i.test(text(head)),
    read: readVcards,
    nothing: () => "no card of an address book begins in it",
  },
  ics: {
    kind: "event",
    mayBe: (head) => /BEGIN:V(CALENDAR|EVENT|TODO|JOURNAL)/i.test(text(head)),
    read: readEvents,
    nothing: () => "no entry of a calendar is in it",
  },
  csv: {
    kind: "message",
    mayBe: (head) => isMessageTable(text(head)),
    read: (bytes) => readCsvMessages(text(bytes)),
    // Most tables are no messages, and that is no trouble. One whose columns are those of messages and still gives none is cut off or broken.
    nothing: (head) =>
      isMessageTable(text(head)) ? `no messages are read from it, though its columns tell of them (${firstLine(head)})` : null,
  },
  json: {
    kind: "message",
    mayBe: (head) => /^\ufeff?\s*[[{]/.test(text(head)),
    read: (bytes) => readJsonMessages(text(bytes)),
    // Most JSON files are no exports. One that names what messages have and still gives none is cut off, or of a shape of its own.
    nothing: (head) =>
      NAMES_MESSAGES.every((one) => one.test(text(head)))
        ? "no messages are read from it: it is cut off, or of a shape that is not known"
        : null,
  },
};
/** The telephony provider's part of a backup: packed JSON (Android Open Source Project, TelephonyBackupAgent). */
const SMS_BACKUP: ExportReader = {
  kind: "message",
  mayBe: () => true,
  read: (bytes, lacking) => readJsonMessages(text(unpacked(bytes, MAX_EXPORT, lacking))),
  nothing: () => "no messages are read from it: it is cut off or broken",
};

/** Who reads a file of this name and format as entries, or null. */
export const exportReader = (name: string | null, format: string): ExportReader | null =>
  isSmsBackup(name) ? SMS_BACKUP : (READERS[format] ?? null);
