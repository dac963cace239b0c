import { Unzlib } from "fflate";
import type { RecordKind, RecordValues } from "../finds/record.ts";
import type { Entry } from "./components.ts";
import { isSmsBackup } from "./formats.ts";
import { readEvents } from "./icalendar.ts";
import { isMessageTable, readCsvMessages, readJsonMessages } from "./messages.ts";
import { readVcards } from "./vcard.ts";

export interface ExportReader {
  readonly kind: RecordKind;
  /** Could the file be such an export, by its first bytes? Only then it is read. */
  mayBe(head: Uint8Array): boolean;
  read(bytes: Uint8Array): Iterable<Entry<RecordValues>>;
}

/** Bytes that tell what a file may be. */
export const EXPORT_HEAD = 4096;
/** Exports longer than this are not read into memory. */
export const MAX_EXPORT = 128 * 1024 * 1024;

const text = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);

/** What is packed as one zlib stream (RFC 1950), as far as it goes and up to `most` bytes. */
function unpacked(bytes: Uint8Array, most: number): Uint8Array {
  const pieces: Uint8Array[] = [];
  let length = 0;
  const inflate = new Unzlib((piece) => {
    pieces.push(piece);
    length += piece.length;
  });
  try {
    for (let at = 0; at < bytes.length && length < most; at += 65_536) inflate.push(bytes.subarray(at, at + 65_536));
  } catch {
    // Cut off or broken: what came out until then counts.
  }
  const whole = new Uint8Array(Math.min(length, most));
  let at = 0;
  for (const piece of pieces) {
    whole.set(piece.subarray(0, Math.max(0, whole.length - at)), Math.min(at, whole.length));
    at += piece.length;
  }
  return whole;
}

const READERS: Record<string, ExportReader> = {
  vcf: { kind: "contact", mayBe: (head) => /BEGIN:VCARD/i.test(text(head)), read: readVcards },
  ics: { kind: "event", mayBe: (head) => /BEGIN:VCALENDAR/i.test(text(head)), read: readEvents },
  csv: { kind: "message", mayBe: (head) => isMessageTable(text(head)), read: (bytes) => readCsvMessages(text(bytes)) },
  json: { kind: "message", mayBe: (head) => /^\ufeff?\s*[[{]/.test(text(head)), read: (bytes) => readJsonMessages(text(bytes)) },
};
/** The telephony provider's part of a backup: packed JSON (Android Open Source Project, TelephonyBackupAgent). */
const SMS_BACKUP: ExportReader = {
  kind: "message",
  mayBe: () => true,
  read: (bytes) => readJsonMessages(text(unpacked(bytes, MAX_EXPORT))),
};

/** Who reads a file of this name and format as entries, or null. */
export const exportReader = (name: string | null, format: string): ExportReader | null =>
  isSmsBackup(name) ? SMS_BACKUP : (READERS[format] ?? null);
