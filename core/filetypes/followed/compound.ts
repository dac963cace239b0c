import { u16, u32 } from "../../bytes/layout.ts";
import type { ByteSource } from "../../bytes/source.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { FollowedType } from "../file-type.ts";
import { type Format, format } from "../format.ts";
import { ascii, brokenOff, some, within } from "./follow.ts";

const le16 = u16(0);
const le32 = u32(0);
/** Documents of older forms: file systems of their own, in whose streams the text stands. */
const older = (name: string, media: string, endings: readonly string[] = [name]) =>
  format(name, "document", { endings, preview: "text", media });
const doc = older("doc", "application/msword", ["doc", "dot"]);
const xls = older("xls", "application/vnd.ms-excel", ["xls", "xlt"]);
const ppt = older("ppt", "application/vnd.ms-powerpoint", ["ppt", "pps"]);
const msg = older("msg", "application/vnd.ms-outlook");
const compoundFile = format("ole2", "document", { endings: ["ole"], preview: "list" });
/** Streams by which a document is told, as they are named in the root storage. */
const STREAMS: readonly (readonly [string, Format])[] = [
  ["WordDocument", doc],
  ["Workbook", xls],
  ["Book", xls],
  ["PowerPoint Document", ppt],
  ["__properties_version1.0", msg],
];

/** [MS-CFB] §2.2: where fields of the header stand. */
const Head = { sectorShift: 30, fatSectors: 44, directory: 48, firstDifat: 68, difatSectors: 72, difat: 76, size: 512 } as const;
const IN_HEADER = 109;
/** §2.1: numbers of no sector. */
const FREE = 0xffff_ffff;
const LAST_NUMBER = 0xffff_fffa;
const MAX_DIFAT = 4096;
const MAX_FAT = 65_536;
const MAX_DIRECTORY = 64;
const ENTRY = 128;
/** §2.6.1: kinds of entries; streams below this size lie in the mini stream. */
const STREAM = 2;
const ROOT = 5;
const MINI_BELOW = 4096;

interface Told {
  readonly sectorBytes: number;
  /** Sectors of the allocation table, in order. */
  readonly fat: readonly number[];
  readonly directory: number;
}

/** The header and the list of the allocation table's sectors (§2.2, §2.5). */
async function readHead(content: ByteSource): Promise<Told | null> {
  const head = await some(content, 0, Head.size);
  if (head.length < Head.size) return null;
  const sectorBytes = 2 ** le16(head, Head.sectorShift);
  const count = le32(head, Head.fatSectors);
  if (![512, 4096].includes(sectorBytes) || count === 0 || count > MAX_FAT) return null;
  const fat: number[] = [];
  for (let index = 0; index < IN_HEADER && fat.length < count; index++) fat.push(le32(head, Head.difat + index * 4));
  let next = le32(head, Head.firstDifat);
  for (let sectors = 0; fat.length < count && next < LAST_NUMBER && sectors < MAX_DIFAT; sectors++) {
    const list = await some(content, (next + 1) * sectorBytes, sectorBytes);
    if (list.length < sectorBytes) break;
    for (let at = 0; at + 4 < sectorBytes && fat.length < count; at += 4) fat.push(le32(list, at));
    next = le32(list, sectorBytes - 4);
  }
  return { sectorBytes, fat, directory: le32(head, Head.directory) };
}

/** The directory's entries (§2.6): names, and first sectors of what is not kept in the mini stream. */
async function readDirectory(content: ByteSource, { sectorBytes, fat, directory }: Told): Promise<{ names: string[]; sectors: number[] }> {
  const names: string[] = [];
  const sectors: number[] = [];
  let sector = directory;
  for (let count = 0; count < MAX_DIRECTORY && sector < LAST_NUMBER; count++) {
    sectors.push(sector);
    const entries = await some(content, (sector + 1) * sectorBytes, sectorBytes);
    for (let at = 0; at + ENTRY <= entries.length; at += ENTRY) {
      const [length, kind] = [Math.max(0, Math.min(64, le16(entries, at + 64)) - 2), entries[at + 66]];
      names.push(new TextDecoder("utf-16le").decode(entries.subarray(at, at + length)));
      if (kind === ROOT || (kind === STREAM && le32(entries, at + 120) >= MINI_BELOW)) sectors.push(le32(entries, at + 116));
    }
    const perSector = sectorBytes / 4;
    const table = fat[Math.floor(sector / perSector)];
    if (table === undefined) break;
    const link = await some(content, (table + 1) * sectorBytes + (sector % perSector) * 4, 4);
    sector = link.length < 4 ? FREE : le32(link, 0);
  }
  return { names, sectors };
}

const formatOf = (names: readonly string[]): Format => STREAMS.find(([stream]) => names.includes(stream))?.[1] ?? compoundFile;

/** The last sector that anything leads to or that leads on: tables may say of the rest that it is free, or that it ends there. Null: they are not all there. */
async function lastSector(content: ByteSource, { sectorBytes, fat }: Told, known: readonly number[]): Promise<number | null> {
  const count = (fat.length * sectorBytes) / 4;
  let last = Math.max(...[...fat, ...known].filter((sector) => sector < count));
  for (const [index, place] of fat.entries()) {
    const table = await some(content, (place + 1) * sectorBytes, sectorBytes);
    if (table.length < sectorBytes) return null;
    for (let entry = 0; entry * 4 < sectorBytes; entry++) {
      const next = le32(table, entry * 4);
      if (next < count) last = Math.max(last, next, (index * sectorBytes) / 4 + entry);
    }
  }
  return last;
}

/** Compound files ([MS-CFB]), as office programs wrote them before they wrote ZIPs: the last sector in use ends it. */
export const compound: FollowedType = {
  reach: "followed",
  formats: [compoundFile, doc, xls, ppt, msg],
  firstBytes: [0xd0],
  beginsBytes: 32,
  begins: (bytes, at) => ascii(bytes, at, "\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1") && le16(bytes, at + 28) === 0xfffe,
  async narrow(source) {
    const content = windowSource(source);
    const told = await readHead(content);
    return told ? formatOf((await readDirectory(content, told)).names) : compoundFile;
  },
  async follow(source) {
    const content = windowSource(source);
    const told = await readHead(content);
    if (!told) return null;
    const { names, sectors } = await readDirectory(content, told);
    const format = formatOf(names);
    const last = await lastSector(content, told, sectors);
    return last === null ? brokenOff(format, content, content.size) : within(format, content, (last + 2) * told.sectorBytes);
  },
};
