import { dosTime } from "../bytes/dos-time.ts";
import { type Ending, inflated } from "../bytes/inflate.ts";
import { u32, u64 } from "../bytes/layout.ts";
import { piecesFrom, some } from "../bytes/pieces.ts";
import type { ByteSource } from "../bytes/source.ts";
import { windowSource } from "../bytes/window-source.ts";
import { type Entry, MOST_ENTRIES } from "./entry.ts";
import {
  CENTRAL,
  CentralHeader,
  DESCRIPTOR,
  Descriptor,
  END,
  END_64,
  End64,
  EndRecord,
  Extra,
  ExtraField,
  Flag,
  LOCAL,
  LOCATOR_64,
  LocalHeader,
  Locator64,
  Method,
  MOST_BEHIND,
  ONES_32,
} from "./zip-layout.ts";

const utf8 = new TextDecoder();
const latin1 = new TextDecoder("latin1");
const le32 = u32(0);
const le64 = u64(0);

/** What a header says of an entry, wherever it stands. */
interface Told {
  readonly at: number;
  readonly name: string;
  readonly flags: number;
  readonly method: number;
  readonly modified: number | null;
  readonly crc: number;
  readonly packed: number;
  readonly size: number;
  readonly localHeader: number;
}

/** The extra fields of an entry, by kind. A field that runs over the end is none. */
function extraFields(bytes: Uint8Array): Map<number, Uint8Array> {
  const fields = new Map<number, Uint8Array>();
  for (let at = 0; at + ExtraField.size <= bytes.length; ) {
    const end = at + ExtraField.size + ExtraField.bytes(bytes, at);
    if (end > bytes.length) break;
    fields.set(ExtraField.kind(bytes, at), bytes.subarray(at + ExtraField.size, end));
    at = end;
  }
  return fields;
}

/** §4.5.3: of size, packed size and place those stand there, in this order, that are all ones in the header. */
function wide(field: Uint8Array | undefined, values: readonly number[]): number[] {
  let at = 0;
  return values.map((value) => {
    if (value !== ONES_32 || !field || at + 8 > field.length) return value;
    at += 8;
    return le64(field, at - 8);
  });
}

/** "UT": a byte of flags, of which the first says that a time of change follows. */
function timeOf(field: Uint8Array | undefined, date: number, time: number): number | null {
  return field && field.length >= 5 && (field[0] & 1) !== 0 ? (le32(field, 1) | 0) * 1000 : dosTime(date, time);
}

const textOf = (bytes: Uint8Array, flags: number): string => ((flags & Flag.utf8) !== 0 ? utf8.decode(bytes) : plainText(bytes));
/** Without the flag a name is of the writer's own code page; most write UTF-8 all the same (common practice, no source). */
function plainText(bytes: Uint8Array): string {
  try {
    return new TextDecoder("utf-8", { fatal: true }).decode(bytes);
  } catch {
    return latin1.decode(bytes);
  }
}

/** What local and central header say of an entry in fields of one name. */
const saidBy = (
  header: typeof LocalHeader | typeof CentralHeader,
  head: Uint8Array,
  name: Uint8Array,
  extra: ReadonlyMap<number, Uint8Array>,
): Pick<Told, "name" | "flags" | "method" | "modified" | "crc"> => ({
  name: textOf(name, header.flags(head, 0)),
  flags: header.flags(head, 0),
  method: header.method(head, 0),
  modified: timeOf(extra.get(Extra.timestamp), header.date(head, 0), header.time(head, 0)),
  crc: header.crc32(head, 0),
});

/** Where the central directory begins, with how many entries by its own word. Null: the archive has none. */
async function directoryOf(content: ByteSource): Promise<{ at: number; entries: number } | null> {
  const from = Math.max(0, content.size - MOST_BEHIND);
  const tail = await some(content, from, MOST_BEHIND);
  for (let end = tail.length - EndRecord.size; end >= 0; end--) {
    if (tail[end] !== 0x50 || EndRecord.signature(tail, end) !== END) continue;
    const before = end - Locator64.size;
    if (before >= 0 && Locator64.signature(tail, before) === LOCATOR_64) {
      const record = await some(content, Locator64.end64Offset(tail, before), End64.size);
      if (record.length === End64.size && End64.signature(record, 0) === END_64)
        return { at: End64.directoryOffset(record, 0), entries: End64.entries(record, 0) };
    }
    return { at: EndRecord.directoryOffset(tail, end), entries: EndRecord.entries(tail, end) };
  }
  return null;
}

/** All that the central directory tells of, in its order. Nothing where there is none. */
export async function* directoryEntries(source: ByteSource): AsyncGenerator<Told> {
  const content = windowSource(source);
  const directory = await directoryOf(content);
  if (!directory) return;
  let at = directory.at;
  for (let number = 0; number < Math.min(directory.entries, MOST_ENTRIES); number++) {
    const head = await some(content, at, CentralHeader.size);
    if (head.length < CentralHeader.size || CentralHeader.signature(head, 0) !== CENTRAL) return;
    const [nameLength, extraLength] = [CentralHeader.nameLength(head, 0), CentralHeader.extraLength(head, 0)];
    const rest = await some(content, at + CentralHeader.size, nameLength + extraLength);
    const extra = extraFields(rest.subarray(nameLength));
    const [size, packed, localHeader] = wide(extra.get(Extra.zip64), [
      CentralHeader.uncompressedSize(head, 0),
      CentralHeader.compressedSize(head, 0),
      CentralHeader.localHeader(head, 0),
    ]);
    yield { at, ...saidBy(CentralHeader, head, rest.subarray(0, nameLength), extra), packed, size, localHeader };
    at += CentralHeader.size + nameLength + extraLength + CentralHeader.commentLength(head, 0);
  }
}

/** A local header, with where the content behind it begins. Null: there is none. */
async function localAt(content: ByteSource, at: number): Promise<(Told & { readonly data: number }) | null> {
  const head = await some(content, at, LocalHeader.size);
  if (head.length < LocalHeader.size || LocalHeader.signature(head, 0) !== LOCAL) return null;
  const [nameLength, extraLength] = [LocalHeader.nameLength(head, 0), LocalHeader.extraLength(head, 0)];
  const rest = await some(content, at + LocalHeader.size, nameLength + extraLength);
  const extra = extraFields(rest.subarray(nameLength));
  const [size, packed] = wide(extra.get(Extra.zip64), [LocalHeader.uncompressedSize(head, 0), LocalHeader.compressedSize(head, 0)]);
  return {
    at,
    ...saidBy(LocalHeader, head, rest.subarray(0, nameLength), extra),
    packed,
    size,
    localHeader: at,
    data: at + LocalHeader.size + nameLength + extraLength,
  };
}

/** What a header leaves for behind the content (§4.4.4 bit 3): found by unpacking it to its own end. */
async function measured(content: ByteSource, data: number): Promise<{ packed: number; size: number; crc: number; next: number } | null> {
  let ending: Ending | null = null;
  const pieces = inflated(piecesFrom(content, data), "deflate", (told) => {
    ending = told;
  });
  for await (const _ of pieces);
  const { how, packed, unpacked } = ending ?? { how: "broken", packed: 0, unpacked: 0 };
  const behind = data + packed;
  const descriptor = await some(content, behind, Descriptor.size);
  if (how !== "whole" || descriptor.length < Descriptor.size || Descriptor.signature(descriptor, 0) !== DESCRIPTOR) return null;
  return { packed, size: unpacked, crc: Descriptor.crc32(descriptor, 0), next: behind + Descriptor.size };
}

/** The entries of an archive whose directory is gone: header by header from its start, up to where that leads nowhere. */
async function* headerEntries(source: ByteSource): AsyncGenerator<Told> {
  const content = windowSource(source);
  let at = 0;
  for (let number = 0; number < MOST_ENTRIES; number++) {
    const told = await localAt(content, at);
    if (!told) return;
    const isLeft = (told.flags & Flag.descriptor) !== 0 && told.packed === 0;
    const found = isLeft && told.method === Method.deflated ? await measured(content, told.data) : null;
    if (isLeft && !found) return;
    yield found ? { ...told, ...found } : told;
    at = found ? found.next : told.data + told.packed;
  }
}

function sealedBy({ flags, method }: Told, isThere: boolean): string | null {
  if (!isThere) return "its content is not where its archive says";
  if ((flags & Flag.encrypted) !== 0) return "it is encrypted: its owner's password is needed";
  if (method !== Method.stored && method !== Method.deflated) return `it is packed in a way that is not unpacked here (method ${method})`;
  return null;
}

/**
 * The files of a ZIP archive, by its central directory, or by the header before each where that is gone. Folders are none.
 * Source: "APPNOTE.TXT" 6.3.10 §4.3
 */
export async function* zipEntries(content: ByteSource): AsyncGenerator<Entry> {
  let any = false;
  for await (const told of directoryEntries(content)) {
    any = true;
    const entry = await entryOf(content, told);
    if (entry) yield entry;
  }
  if (any) return;
  for await (const told of headerEntries(content)) {
    const entry = await entryOf(content, told);
    if (entry) yield entry;
  }
}

async function entryOf(content: ByteSource, told: Told): Promise<Entry | null> {
  const { at, name, method, modified, crc, packed, size } = told;
  if (name.endsWith("/") || name === "") return null;
  const local = await localAt(content, told.localHeader);
  const isThere = local !== null && local.data <= content.size;
  const sealed = sealedBy(told, isThere);
  return {
    at,
    path: `/${name.replaceAll("\\", "/").replace(/^(\.{0,2}\/+)+/, "")}`,
    size,
    modified,
    extents: local && sealed === null ? [{ offset: local.data, length: Math.min(packed, content.size - local.data) }] : [],
    packed: method === Method.deflated ? { with: "deflate", skip: 0 } : null,
    crc,
    vouched: false,
    sealed,
  };
}
