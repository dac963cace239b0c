import { MAX_HEADER, readHeader } from "../backup/header.ts";
import { sliceSource, totalLength } from "../bytes/extents.ts";
import { type Ending, type PackedWith, TRAP } from "../bytes/inflate.ts";
import type { ByteSource } from "../bytes/source.ts";
import { openTar } from "../filesystems/tar/tar-volume.ts";
import { type Entry, MOST_ENTRIES } from "./entry.ts";
import { Contents, inflatedLength } from "./stream.ts";
import { zipEntries } from "./zip-entries.ts";

/** Told of what goes wrong on the way, in plain words. */
type Trouble = (what: string) => void;
type Opener = (content: ByteSource, trouble: Trouble) => AsyncGenerator<Entry>;

/** The files of a tar archive, which lie in it as they are. */
async function* tarEntries(content: ByteSource, trouble: Trouble): AsyncGenerator<Entry> {
  const volume = await openTar(content, 0, content.size, 0);
  let number = 0;
  for await (const { files, troubles } of volume?.list() ?? []) {
    for (const { what } of troubles) trouble(what);
    for (const { at, path, size, modified, placements } of files) {
      if (number++ >= MOST_ENTRIES) return;
      const extents = placements[0]?.extents ?? [];
      const sealed = totalLength(extents) < size ? "its archive breaks off in the middle of it" : null;
      yield { at, path: path ?? "", size, modified, extents, packed: null, crc: null, vouched: false, sealed };
    }
  }
}

/** How far a packed stream goes; where it is not whole that is told. Null: it is a trap, and left. */
async function endOf(content: ByteSource, how: PackedWith, trouble: Trouble): Promise<Ending | null> {
  const ending = await inflatedLength(content, how);
  if (ending.how === "trap") trouble(`it ${TRAP}`);
  else if (ending.how !== "whole")
    trouble(`what is packed ${ending.how === "broken" ? "is broken" : "breaks off"} after ${ending.packed} bytes: what follows is lost`);
  return ending.how === "trap" ? null : ending;
}

/** The files of an archive that is packed as one stream: each lies somewhere in what comes out. */
async function* streamedEntries(
  content: ByteSource,
  how: PackedWith,
  from: number,
  { how: ended, unpacked }: Ending,
  trouble: Trouble,
): AsyncGenerator<Entry> {
  const stored = [{ offset: from, length: content.size - from }];
  const plain = new Contents(content).of({ extents: stored, packed: { with: how, skip: 0 }, size: unpacked });
  for await (const entry of tarEntries(plain, trouble)) {
    const [first, ...more] = entry.extents;
    // Stretches with zeros between them lie in no one piece of the stream.
    if (more.length > 0 || (first && first.offset < 0)) yield { ...entry, extents: [], sealed: "it is sparse in a packed archive" };
    else
      yield {
        ...entry,
        extents: first ? stored : [],
        packed: first ? { with: how, skip: first.offset } : null,
        vouched: ended === "whole",
      };
  }
}

/** A backup of apps (core/backup/header.ts): a tar archive behind a header, packed or not. */
async function* backupEntries(content: ByteSource, trouble: Trouble): AsyncGenerator<Entry> {
  const header = readHeader(await content.read(0, Math.min(content.size, MAX_HEADER)));
  if (typeof header === "string") return trouble(header);
  if (header.encryption) return trouble("it is encrypted: given back and dropped by itself it opens with its owner's passphrase");
  const { compressed, length } = header;
  if (compressed) {
    const ending = await endOf(sliceSource(content, length, content.size - length), "zlib", trouble);
    if (ending) yield* streamedEntries(content, "zlib", length, ending, trouble);
  } else
    for await (const entry of tarEntries(sliceSource(content, length, content.size - length), trouble))
      yield {
        ...entry,
        at: entry.at + length,
        extents: entry.extents.map((one) => ({ ...one, offset: one.offset < 0 ? one.offset : one.offset + length })),
      };
}

/** Bytes that come out of a broken stream below which they are chance: what is no stream at all unpacks to a few as well. */
const LEAST_OF_BROKEN = 4096;

/** A packed file of one name, or an archive that was packed as a whole. */
async function* gzipEntries(content: ByteSource, trouble: Trouble): AsyncGenerator<Entry> {
  const ending = await endOf(content, "gzip", trouble);
  if (!ending) return;
  const { how, unpacked } = ending;
  if (how !== "whole" && unpacked < LEAST_OF_BROKEN) return;
  const stored = [{ offset: 0, length: content.size }];
  const plain = new Contents(content).of({ extents: stored, packed: { with: "gzip", skip: 0 }, size: unpacked });
  if (await openTar(plain, 0, plain.size, 0)) return yield* streamedEntries(content, "gzip", 0, ending, trouble);
  const name = content.name.replace(/\.gz$/i, "");
  yield {
    at: 0,
    path: `/${name}`,
    size: unpacked,
    modified: null,
    extents: stored,
    packed: { with: "gzip", skip: 0 },
    crc: null,
    vouched: how === "whole",
    sealed: null,
  };
}

/** How archives are opened, by the name that their format calls it by (core/filetypes/format.ts). Adding one is adding its line here. */
const OPENERS = { zip: zipEntries, tar: tarEntries, "app backup": backupEntries, gzip: gzipEntries } as const satisfies Record<
  string,
  Opener
>;

/**
 * The files in an archive, in the order in which it tells of them. `content`: the whole archive, called by its name. What is broken or cut off goes as
 * far as it goes, and `trouble` is told.
 */
export const entriesOf = (how: keyof typeof OPENERS, content: ByteSource, trouble: Trouble): AsyncGenerator<Entry> =>
  OPENERS[how](content, trouble);
