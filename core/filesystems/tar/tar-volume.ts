import { type Extent, firstBytes, hole, totalLength } from "../../bytes/extents.ts";
import type { ByteSource } from "../../bytes/source.ts";
import type { FileBatch, ListedFile, Volume } from "../volume.ts";
import {
  isHeader,
  isSparse,
  linkIn,
  nameIn,
  numberOf,
  type Piece,
  piecesIn,
  piecesOfContent,
  piecesOfRecords,
  realSizeIn,
  records,
  typeOf,
} from "./header.ts";
import { BLOCK, GnuHeader, padded, SparseBlock, TarHeader, Type } from "./layout.ts";

const MAX_ENTRIES = 2_000_000;
/** An extended header says a name and a few numbers, of a sparse file a list of places: more is no header. */
const MAX_EXTENDED = 4 * 1024 * 1024;
/** Stretches of one sparse file before we stop believing. */
const MAX_PIECES = 1 << 18;
const BATCH = 256;
/** Files that links are held against. */
const MAX_LINKED = 500_000;

const utf8 = new TextDecoder();

/** Opens a tar archive as a volume: all in it is present, nothing of it is free. @returns null for what is none */
export async function openTar(source: ByteSource, start: number, length: number, index: number): Promise<Volume | null> {
  if (length < BLOCK || !isHeader(await source.read(start, BLOCK))) return null;
  return {
    info: { index, filesystem: "tar archive", start, length, label: null, encrypted: false, used: length, free: 0, clusterBytes: BLOCK },
    troubles: [],
    list: () => new TarWalk(source, start, start + length).run(),
    freeRuns: () => [],
    mayDig: () => false,
    dig: async () => ({ files: [], troubles: [] }),
  };
}

/** What stands before an entry and speaks of it. */
interface Ahead {
  /** Extended records of this entry, in order. */
  records: (readonly [string, string])[];
  /** A name or link target that had no room in the header (GNU). */
  longName: string | null;
  longLink: string | null;
}
const nothingAhead = (): Ahead => ({ records: [], longName: null, longLink: null });

class TarWalk {
  readonly #source: ByteSource;
  readonly #start: number;
  readonly #end: number;
  readonly #global = new Map<string, string>();
  #ahead = nothingAhead();
  #batch: FileBatch = { files: [], troubles: [] };
  /** Files by the name that links call them by. */
  readonly #named = new Map<string, ListedFile>();

  constructor(source: ByteSource, start: number, end: number) {
    this.#source = source;
    this.#start = start;
    this.#end = end;
  }

  #say(what: string, at: number, length: number): void {
    this.#batch.troubles.push({ what, at, length });
  }

  async *run(): AsyncGenerator<FileBatch> {
    let at = this.#start;
    let closed = false;
    for (let entries = 0; at + BLOCK <= this.#end && entries < MAX_ENTRIES; entries++) {
      const block = await this.#source.read(at, BLOCK);
      if (block.every((byte) => byte === 0)) {
        closed = true;
        break;
      }
      if (!isHeader(block)) {
        this.#say("the archive is broken here: what follows cannot be told apart", at, this.#end - at);
        closed = true;
        break;
      }
      const next = await this.#entry(block, at);
      if (next === null) {
        this.#say("an entry of the archive says a size that cannot be: what follows cannot be told apart", at, this.#end - at);
        closed = true;
        break;
      }
      at = next;
      if (this.#batch.files.length < BATCH) continue;
      yield this.#batch;
      this.#batch = { files: [], troubles: [] };
    }
    if (!closed) this.#say("the archive has no end: it was cut off, and files may be missing", this.#end, 0);
    yield this.#batch;
  }

  /** Takes one entry in. @returns where the next one begins, or null where its size makes no sense */
  async #entry(block: Uint8Array, at: number): Promise<number | null> {
    const type = typeOf(block);
    const all = [...this.#global, ...this.#ahead.records];
    const record = (key: string): string | undefined => all.findLast(([one]) => one === key)?.[1];
    // What stands ahead of a header has no records of its own.
    const isOwn = type !== Type.extended && type !== Type.global && type !== Type.longName && type !== Type.longLink;
    const stored = Number((isOwn ? record("size") : undefined) ?? numberOf(TarHeader.bytes(block, 0)));
    if (!Number.isSafeInteger(stored) || stored < 0) return null;
    let content = at + BLOCK;
    let pieces: Piece[] | null = null;
    if (isSparse(block)) ({ content, pieces } = await this.#sparseBlocks(block, content));
    const there = Math.max(0, Math.min(stored, this.#end - content));
    const next = content + padded(stored);
    if (!isOwn) {
      const bytes = await this.#source.read(content, Math.min(there, MAX_EXTENDED));
      const text = utf8.decode(bytes).replace(/\0.*$/s, "");
      if (type === Type.extended) this.#ahead.records = records(bytes);
      else if (type === Type.global) for (const [key, value] of records(bytes)) this.#global.set(key, value);
      else if (type === Type.longName) this.#ahead.longName = text;
      else this.#ahead.longLink = text;
      return next;
    }
    const path = `/${(record("GNU.sparse.name") ?? record("path") ?? this.#ahead.longName ?? nameIn(block)).replace(/^(\.?\/+)+/, "")}`;
    if (there < stored) this.#say("the archive ends in the middle of a file", content, there);
    if (type === Type.link) this.#link(record("linkpath") ?? this.#ahead.longLink ?? linkIn(block), path, at);
    else if ((type === Type.file || type === Type.oldFile || type === Type.contiguous || type === Type.sparse) && !path.endsWith("/")) {
      let extents: Extent[] = there > 0 ? [{ offset: content, length: there }] : [];
      let size = stored;
      if (record("GNU.sparse.major") === "1") {
        const head = piecesOfContent(utf8.decode(await this.#source.read(content, Math.min(there, MAX_EXTENDED))));
        if (head) {
          pieces = head.pieces;
          extents = [{ offset: content + padded(head.bytes), length: Math.max(0, there - padded(head.bytes)) }];
        } else this.#say(`${path}: the list of its stretches makes no sense`, content, there);
      } else pieces ??= piecesOfRecords(all);
      if (pieces) {
        size = Number(record("GNU.sparse.realsize") ?? record("GNU.sparse.size") ?? realSizeIn(block));
        const spread = Number.isSafeInteger(size) && size >= 0 ? spreadOut(pieces, extents, size) : null;
        if (spread) extents = spread;
        else this.#say(`${path}: the list of its stretches makes no sense`, at, BLOCK);
      }
      this.#file(path, Number.isSafeInteger(size) && size >= 0 ? size : stored, extents, record("mtime") ?? null, block, at);
    }
    this.#ahead = nothingAhead();
    return next;
  }

  /** The blocks behind a sparse header that go on with its stretches. */
  async #sparseBlocks(block: Uint8Array, from: number): Promise<{ content: number; pieces: Piece[] }> {
    const pieces = piecesIn(GnuHeader.sp(block, 0));
    let content = from;
    for (
      let more = GnuHeader.isextended(block, 0);
      more !== "\0" && content + BLOCK <= this.#end && pieces.length < MAX_PIECES;
      content += BLOCK
    ) {
      const list = await this.#source.read(content, BLOCK);
      pieces.push(...piecesIn(SparseBlock.sp(list, 0)));
      more = SparseBlock.isextended(list, 0);
    }
    return { content, pieces };
  }

  #file(path: string, size: number, extents: Extent[], mtime: string | null, block: Uint8Array, at: number): void {
    const seconds = Number(mtime ?? numberOf(TarHeader.mtime(block, 0)));
    const first = extents.find(({ offset }) => offset >= 0);
    const file: ListedFile = {
      at,
      erased: false,
      name: path.slice(path.lastIndexOf("/") + 1),
      path,
      size,
      modified: seconds > 0 ? Math.round(seconds * 1000) : null,
      placements: [{ extents, how: "its content follows its header in the archive" }],
      firstByte: first ? first.offset : null,
      traces: [{ what: `header in the archive, ${path}`, at }],
    };
    if (this.#named.size < MAX_LINKED) this.#named.set(path, file);
    this.#batch.files.push(file);
  }

  /** Another name of a file that stands before: the same content. */
  #link(target: string, path: string, at: number): void {
    const file = this.#named.get(`/${target.replace(/^(\.?\/+)+/, "")}`);
    if (!file) {
      this.#say(`${path} is another name of ${target}, which is not in the archive before it`, at, BLOCK);
      return;
    }
    this.#batch.files.push({
      ...file,
      at,
      name: path.slice(path.lastIndexOf("/") + 1),
      path,
      // Its first byte is that of the file it names: without it the two are told apart.
      firstByte: null,
      traces: [{ what: `header in the archive, another name of ${file.path}`, at }],
    });
  }
}

/** Stretches of a sparse file in their places, zeros between them. Null: they do not follow each other within its size. */
function spreadOut(pieces: readonly Piece[], stored: readonly Extent[], size: number): Extent[] | null {
  const extents: Extent[] = [];
  let at = 0;
  let taken = 0;
  for (const { offset, length } of pieces) {
    if (!Number.isSafeInteger(offset) || !Number.isSafeInteger(length) || length < 0 || offset < at || offset + length > size) return null;
    if (offset > at) extents.push(hole(offset - at));
    extents.push(...firstBytes(skipped(stored, taken), length));
    taken += length;
    at = offset + length;
  }
  if (totalLength(stored) < taken) return null;
  if (at < size) extents.push(hole(size - at));
  return extents;
}

function skipped(stored: readonly Extent[], bytes: number): Extent[] {
  let left = bytes;
  return stored.flatMap(({ offset, length }) => {
    const skip = Math.min(left, length);
    left -= skip;
    return skip < length ? [{ offset: offset + skip, length: length - skip }] : [];
  });
}
