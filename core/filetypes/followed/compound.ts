import { u16, u32 } from "../../bytes/layout.ts";
import type { ByteSource } from "../../bytes/source.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { FollowedType } from "../file-type.ts";
import { type Format, format, written } from "../format.ts";
import { ascii, brokenOff, some, within } from "./follow.ts";

const le16 = u16(0);
const le32 = u32(0);
const doc = written("doc", "text", "application/msword", ["doc", "dot"]);
const xls = written("xls", "text", "application/vnd.ms-excel", ["xls", "xlt"]);
const ppt = written("ppt", "text", "application/vnd.ms-powerpoint", ["ppt", "pps"]);
const msg = written("msg", "text", "application/vnd.ms-outlook");
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

async function formatOf(content: ByteSource, { sectorBytes, fat, directory }: Told): Promise<Format> {
  let sector = directory;
  for (let sectors = 0; sectors < MAX_DIRECTORY && sector < LAST_NUMBER; sectors++) {
    const entries = await some(content, (sector + 1) * sectorBytes, sectorBytes);
    for (let at = 0; at + ENTRY <= entries.length; at += ENTRY) {
      const name = new TextDecoder("utf-16le").decode(entries.subarray(at, at + Math.max(0, Math.min(64, le16(entries, at + 64)) - 2)));
      const known = STREAMS.find(([stream]) => stream === name);
      if (known) return known[1];
    }
    const perSector = sectorBytes / 4;
    const table = fat[Math.floor(sector / perSector)];
    if (table === undefined) break;
    const link = await some(content, (table + 1) * sectorBytes + (sector % perSector) * 4, 4);
    sector = link.length < 4 ? FREE : le32(link, 0);
  }
  return compoundFile;
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
    return told ? formatOf(content, told) : compoundFile;
  },
  async follow(source) {
    const content = windowSource(source);
    const told = await readHead(content);
    if (!told) return null;
    const { sectorBytes, fat } = told;
    const perSector = sectorBytes / 4;
    let last = -1;
    for (let index = fat.length - 1; index >= 0 && last < 0; index--) {
      const table = await some(content, (fat[index] + 1) * sectorBytes, sectorBytes);
      if (table.length < sectorBytes) return brokenOff(compoundFile, content, content.size);
      for (let entry = perSector - 1; entry >= 0 && last < 0; entry--)
        if (le32(table, entry * 4) !== FREE) last = index * perSector + entry;
    }
    return last < 0 ? null : within(await formatOf(content, told), content, (last + 2) * sectorBytes);
  },
};
