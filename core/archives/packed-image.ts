import { inflated } from "../bytes/inflate.ts";
import { piecesFrom, some } from "../bytes/pieces.ts";
import { type ByteSource, UnusableError } from "../bytes/source.ts";
import { joinedPieces, pieceOf } from "../medium/pieces.ts";
import type { Entry } from "./entry.ts";
import { Contents } from "./stream.ts";
import { unpackedXz } from "./xz.ts";
import { zipEntries } from "./zip-entries.ts";

/** A file that is packed as a whole: what comes out of it is what was given. */
export interface PackedImage {
  /** What it is called when it is unpacked. */
  readonly name: string;
  /** Bytes that come out, where that is told before. */
  readonly size: number | null;
  /** Only where a disk image comes out is it taken for one: an archive of one file is an archive else. */
  readonly mustBeImage: boolean;
  /** The beginning of what comes out: for whoever must know what it is before all of it is unpacked. */
  head(): Promise<Uint8Array>;
  /** All that comes out, in its order. `progress`: packed bytes that are done, of all. @throws UnusableError where it is broken or cut off */
  pieces(progress?: (done: number, total: number) => void): AsyncGenerator<Uint8Array>;
}

/** RFC 1952 §2.3.1; The .xz File Format 1.1, §2.1.1.1; APPNOTE 6.3.9, §4.3.7. */
const GZIP = "1f8b08";
const XZ = "fd377a585a00";
const ZIP = "504b0304";
const HEAD = 64 * 1024;
/** Entries of an archive that are looked at: a set of pieces has no more. */
const MOST_LOOKED_AT = 10_000;

const begins = (head: Uint8Array, magic: string): boolean =>
  Array.from(head.subarray(0, magic.length / 2), (byte) => byte.toString(16).padStart(2, "0")).join("") === magic;

/** What a file is packed as, where it is packed as a whole: gzip, xz, or a ZIP archive of one file or of one set of pieces. Null: it is not. */
export async function packedImageIn(source: ByteSource): Promise<PackedImage | null> {
  const head = await some(source, 0, 8);
  const named = (ending: RegExp) => source.name.replace(ending, "") || source.name;
  if (begins(head, GZIP)) return streamed(source, named(/\.t?gz$/i), (pieces) => gunzipped(pieces, source.name));
  if (begins(head, XZ)) return streamed(source, named(/\.xz$/i), (pieces) => unpackedXz(pieces, source.name));
  return begins(head, ZIP) ? oneIn(source) : null;
}

/** A content piece by piece; `progress` hears how much of it is read. */
async function* counted(content: ByteSource, progress?: (done: number, total: number) => void): AsyncGenerator<Uint8Array> {
  let done = 0;
  for await (const piece of piecesFrom(content)) {
    done += piece.length;
    progress?.(done, content.size);
    yield piece;
  }
}

function streamed(source: ByteSource, name: string, unpack: (pieces: AsyncIterable<Uint8Array>) => AsyncIterable<Uint8Array>): PackedImage {
  const pieces: PackedImage["pieces"] = async function* (progress) {
    yield* unpack(counted(source, progress));
  };
  return { name, size: null, mustBeImage: false, head: () => headOf(pieces()), pieces };
}

/** How much comes out is bound by the room that there is: an empty card is packed a thousandfold, and no trap. */
async function* gunzipped(pieces: AsyncIterable<Uint8Array>, name: string): AsyncGenerator<Uint8Array> {
  let how = "whole";
  let after = 0;
  const ended = (ending: { readonly how: string; readonly unpacked: number }) => {
    how = ending.how;
    after = ending.unpacked;
  };
  yield* inflated(pieces, "gzip", ended, () => false);
  if (how !== "whole")
    throw new UnusableError(
      `${name} is not a whole gzip file: it ${how === "broken" ? "is broken" : "breaks off"} after ${after} unpacked bytes.`,
    );
}

async function headOf(pieces: AsyncIterable<Uint8Array>): Promise<Uint8Array> {
  for await (const piece of pieces) if (piece.length > 0) return piece.subarray(0, HEAD);
  return new Uint8Array(0);
}

/** The one file of an archive, or the one set of pieces in it; null where there is anything else beside it. */
async function oneIn(source: ByteSource): Promise<PackedImage | null> {
  const entries: Entry[] = [];
  for await (const entry of zipEntries(source)) {
    if (entry.path.endsWith("/") || entry.path === "/") continue;
    entries.push(entry);
    if (entries.length > MOST_LOOKED_AT) return null;
  }
  if (entries.length === 0 || entries.some(({ sealed }) => sealed !== null)) return null;
  const contents = new Contents(source);
  const opened = entries.map((entry) => contents.of(entry, entry.path.slice(entry.path.lastIndexOf("/") + 1)));
  const names = opened.map(({ name }) => pieceOf(name));
  const isSet =
    names.every((one) => one !== null && one.whole === names[0]?.whole) && new Set(names.map((one) => one?.number)).size === names.length;
  if (opened.length > 1 && !isSet) return null;
  const inside = isSet ? joinedPieces(opened) : opened[0];
  if (inside.holes) return null;
  return {
    name: inside.name,
    size: inside.size,
    mustBeImage: true,
    head: () => some(inside, 0, HEAD),
    pieces: (progress) => counted(inside, progress),
  };
}
