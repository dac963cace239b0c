import { BACKUP_MAGIC, MAX_HEADER, readHeader } from "../../backup/header.ts";
import { sliceSource } from "../../bytes/extents.ts";
import { crc32Of } from "../../bytes/hash.ts";
import { u16, u32, u64 } from "../../bytes/layout.ts";
import type { ByteSource } from "../../bytes/source.ts";
import { windowSource } from "../../bytes/window-source.ts";
import { isAllZero } from "../../bytes/zeros.ts";
import { numberOf } from "../../filesystems/tar/header.ts";
import { BLOCK, headerSum, MAGIC, padded, TarHeader } from "../../filesystems/tar/layout.ts";
import type { FollowedType } from "../file-type.ts";
import { packed } from "../format.ts";
import { ascii, brokenOff, overParts, some, within } from "./follow.ts";
import { inflatedEnd } from "./packed-streams.ts";

const le16 = u16(0);
const le32 = u32(0);
const le64 = u64(0);
const seven = packed("7z", "application/x-7z-compressed");
const rarFormat = packed("rar", "application/vnd.rar");
const tarFormat = packed("tar", "application/x-tar", ["tar"], "tar");
const backup = packed("ab", "application/octet-stream", ["ab"], "app backup");

/** "7z Format description" (7zFormat.txt): where the headers at the end begin and how long they are, under a check sum. */
const SEVEN_HEAD = 32;
export const sevenZip: FollowedType = {
  reach: "followed",
  formats: [seven],
  firstBytes: [0x37],
  beginsBytes: SEVEN_HEAD,
  begins: (bytes, at) =>
    ascii(bytes, at, "7z\xbc\xaf\x27\x1c") && crc32Of(bytes.subarray(at + 12, at + SEVEN_HEAD)) === le32(bytes, at + 8),
  async follow(content) {
    const head = await some(content, 0, SEVEN_HEAD);
    return within(seven, content, SEVEN_HEAD + le64(head, 12) + le64(head, 20));
  },
};

/** "RAR 5.0 archive format": numbers of seven bits a byte. */
function vint(bytes: Uint8Array, at: number): { value: number; bytes: number } | null {
  let value = 0;
  for (let index = 0; index < 8; index++) {
    if (at + index >= bytes.length) return null;
    value += (bytes[at + index] & 0x7f) * 2 ** (7 * index);
    if (bytes[at + index] < 0x80) return { value, bytes: index + 1 };
  }
  return null;
}
/** Kinds of headers: the end of an archive, in its fourth and its fifth form. */
const RAR4_END = 0x7b;
const RAR5_END = 5;
const RAR_HEAD = 64;

/** A header of the fourth form: its kind, flags and size; with flag 8000 the size of what follows it. */
function rar4Step(head: Uint8Array): { bytes: number; last: boolean } | null {
  if (head.length < 7 || head[2] < 0x72 || head[2] > RAR4_END) return null;
  const follows = (le16(head, 3) & 0x8000) !== 0 ? le32(head, 7) : 0;
  return { bytes: le16(head, 5) + follows, last: head[2] === RAR4_END };
}

/** A header of the fifth form: check sum, size, kind, flags; with flag 2 the size of its data. */
function rar5Step(head: Uint8Array): { bytes: number; last: boolean } | null {
  const size = vint(head, 4);
  const kind = size && vint(head, 4 + size.bytes);
  const flags = kind && vint(head, 4 + size.bytes + kind.bytes);
  if (!flags || kind.value < 1 || kind.value > RAR5_END) return null;
  let at = 4 + size.bytes + kind.bytes + flags.bytes;
  const extra = (flags.value & 1) !== 0 ? vint(head, at) : null;
  if (extra) at += extra.bytes;
  const data = (flags.value & 2) !== 0 ? vint(head, at) : null;
  return { bytes: 4 + size.bytes + size.value + (data?.value ?? 0), last: kind.value === RAR5_END };
}

export const rar: FollowedType = {
  reach: "followed",
  formats: [rarFormat],
  firstBytes: [0x52],
  beginsBytes: 8,
  begins: (bytes, at) => ascii(bytes, at, "Rar!\x1a\x07") && (bytes[at + 6] === 0 || (bytes[at + 6] === 1 && bytes[at + 7] === 0)),
  async follow(source) {
    const content = windowSource(source);
    const isFifth = (await some(content, 6, 1))[0] === 1;
    const { length, ends } = await overParts(content, isFifth ? 8 : 7, RAR_HEAD, isFifth ? rar5Step : rar4Step);
    return ends ? { format: rarFormat, length, ends } : brokenOff(rarFormat, content, length);
  },
};

/** A header begins with a name: a few letters are looked at before what stands further in. */
function beginsWithName(bytes: Uint8Array, at: number): boolean {
  for (let place = at; place < at + 8; place++) {
    if (bytes[place] === 0) return true;
    if (bytes[place] < 0x20 || bytes[place] === 0x7f) return false;
  }
  return true;
}
function isTarHead(bytes: Uint8Array, at: number): boolean {
  if (!beginsWithName(bytes, at) || !ascii(bytes, at + TarHeader.magic.at, MAGIC)) return false;
  const block = bytes.subarray(at, at + BLOCK);
  return headerSum(block) === numberOf(TarHeader.chksum(block, 0));
}

/** Archives are written in records of twenty blocks, the last one filled with zeros ("GNU tar" 1.34, §9.4.2). */
const RECORD = 20 * BLOCK;

/** Where an archive ends: behind its two empty blocks, and what fills its last record. */
async function tarEnd(source: ByteSource): Promise<{ length: number; ends: boolean }> {
  const content = windowSource(source);
  let empty = 0;
  const told = await overParts(content, 0, BLOCK, (head) => {
    if (head.length < BLOCK) return null;
    if (isAllZero(head)) return { bytes: BLOCK, last: ++empty === 2 };
    if (empty > 0 || !isTarHead(head, 0)) return null;
    const size = numberOf(TarHeader.bytes(head, 0));
    return Number.isSafeInteger(size) ? { bytes: BLOCK + padded(size) } : null;
  });
  const filled = Math.ceil(told.length / RECORD) * RECORD;
  if (!told.ends || filled > content.size) return told;
  return isAllZero(await some(content, told.length, filled - told.length)) ? { ...told, length: filled } : told;
}

export const tar: FollowedType = {
  reach: "followed",
  formats: [tarFormat],
  firstBytes: Array.from({ length: 256 }, (_, byte) => byte).filter((byte) => byte > 0x20 && byte !== 0x7f),
  beginsBytes: BLOCK,
  begins: isTarHead,
  // Every file in it has a header like the first one's: those in the middle are no beginnings where the archive itself is known.
  byChance: true,
  async follow(content) {
    const { length, ends } = await tarEnd(content);
    return length === 0 ? null : ends ? { format: tarFormat, length, ends } : brokenOff(tarFormat, content, length);
  },
};

/** Bytes that are taken of a backup whose length nothing tells. */
const MOST_UNTOLD = 1024 * 1024;

/** A backup of apps (core/backup/header.ts): its header, then an archive, packed or not, encrypted or not. */
export const appBackup: FollowedType = {
  reach: "followed",
  formats: [backup],
  firstBytes: [BACKUP_MAGIC.charCodeAt(0)],
  beginsBytes: 20,
  begins: (bytes, at) => ascii(bytes, at, BACKUP_MAGIC),
  async follow(content) {
    const header = readHeader(await some(content, 0, MAX_HEADER));
    if (typeof header === "string") return null;
    const begins = header.length;
    // What is encrypted tells nothing of its length.
    if (header.encryption) return brokenOff(backup, content, begins + MOST_UNTOLD);
    const rest = sliceSource(content, begins, content.size - begins);
    const { length, ends } = header.compressed ? await inflatedEnd(rest, "zlib") : await tarEnd(rest);
    return ends ? { format: backup, length: begins + length, ends } : brokenOff(backup, content, begins + length);
  },
};
