import type { PatientSource } from "../../bytes/patient-source.ts";
import type { Trouble } from "../../bytes/trouble.ts";
import type { ListedFile, Volume } from "../../medium/volume.ts";
import { BLOCK, headerSum, MAGIC, padded, TarHeader, Type } from "./layout.ts";

const MAX_ENTRIES = 2_000_000;
/** An extended header says a name and a few numbers: more is no header. */
const MAX_EXTENDED = 64 * 1024;
const BATCH = 256;

const utf8 = new TextDecoder();

const octal = (text: string): number => Number.parseInt(text.replace(/\0.*$/s, "").trim() || "0", 8);
const upToZero = (text: string): string => text.replace(/\0.*$/s, "");
const isHeader = (block: Uint8Array): boolean =>
  TarHeader.magic(block, 0).startsWith(MAGIC) && octal(TarHeader.chksum(block, 0)) === headerSum(block);

/** Records of an extended header by key: "length key=value\n" (POSIX.1-2001, pax). What is none ends the reading. */
function extended(bytes: Uint8Array): Map<string, string> {
  const records = new Map<string, string>();
  for (let at = 0; at < bytes.length; ) {
    const space = bytes.indexOf(0x20, at);
    const length = space > at && space - at < 8 ? Number(utf8.decode(bytes.subarray(at, space))) : 0;
    if (!Number.isInteger(length) || length <= space - at + 2 || at + length > bytes.length) break;
    const text = utf8.decode(bytes.subarray(space + 1, at + length - 1));
    const equals = text.indexOf("=");
    if (equals > 0) records.set(text.slice(0, equals), text.slice(equals + 1));
    at += length;
  }
  return records;
}

/** Opens a tar archive as a volume: all in it is present, nothing of it is free. @returns null for what is none */
export async function openTar(source: PatientSource, start: number, length: number, index: number): Promise<Volume | null> {
  if (length < BLOCK || !isHeader(await source.read(start, BLOCK))) return null;
  return {
    info: { index, filesystem: "tar archive", start, length, label: null, encrypted: false, used: length, free: 0, clusterBytes: BLOCK },
    troubles: [],
    list: () => list(source, start, length),
    freeRuns: () => [],
    mayDig: () => false,
    dig: async () => ({ files: [], troubles: [] }),
  };
}

async function* list(source: PatientSource, start: number, length: number): AsyncGenerator<{ files: ListedFile[]; troubles: Trouble[] }> {
  const end = start + length;
  let files: ListedFile[] = [];
  let more = new Map<string, string>();
  for (let at = start, entries = 0; at + BLOCK <= end && entries < MAX_ENTRIES; entries++) {
    const block = await source.read(at, BLOCK);
    if (block.every((byte) => byte === 0)) break;
    if (!isHeader(block)) {
      yield { files: [], troubles: [{ what: "the archive is broken here: what follows cannot be told apart", at, length: end - at }] };
      break;
    }
    const type = TarHeader.typeflag(block, 0);
    const content = at + BLOCK;
    const size = Number(more.get("size") ?? octal(TarHeader.bytes(block, 0)));
    if (!Number.isSafeInteger(size) || size < 0) break;
    const there = Math.min(size, end - content);
    if (type === Type.extended && size <= MAX_EXTENDED) more = extended(await source.read(content, there));
    else {
      if (type === Type.file || type === Type.oldFile) files.push(entryOf(block, more, at, content, size, there));
      more = new Map();
    }
    if (there < size) yield { files: [], troubles: [{ what: "the archive ends in the middle of a file", at: content, length: there }] };
    at = content + padded(size);
    if (files.length < BATCH) continue;
    yield { files, troubles: [] };
    files = [];
  }
  yield { files, troubles: [] };
}

function entryOf(block: Uint8Array, more: Map<string, string>, at: number, content: number, size: number, there: number): ListedFile {
  const prefix = upToZero(TarHeader.prefix(block, 0));
  const plain = utf8.decode(
    Uint8Array.from(`${prefix ? `${prefix}/` : ""}${upToZero(TarHeader.name(block, 0))}`, (one) => one.charCodeAt(0)),
  );
  const path = `/${(more.get("path") ?? plain).replace(/^\/+/, "")}`;
  const seconds = Number(more.get("mtime") ?? octal(TarHeader.mtime(block, 0)));
  return {
    at,
    erased: false,
    name: path.slice(path.lastIndexOf("/") + 1),
    path,
    size,
    modified: seconds > 0 ? Math.round(seconds * 1000) : null,
    placements: [{ extents: there > 0 ? [{ offset: content, length: there }] : [], how: "its content follows its header in the archive" }],
    firstByte: there > 0 ? content : null,
    records: [{ what: `header in the archive, ${path}`, at }],
  };
}
