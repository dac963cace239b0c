import type { Extent } from "../bytes/extents.ts";
import type { Trouble } from "../bytes/trouble.ts";

/** What a volume is, as far as it says so. Offsets and sizes in bytes. */
export interface VolumeInfo {
  readonly index: number;
  readonly filesystem: string;
  readonly start: number;
  readonly length: number;
  readonly label: string | null;
  readonly encrypted: boolean;
  /** How it is encrypted and what that means for what can be found, in plain words. Null: it is not. */
  readonly encryption?: string | null;
  /** What else its own structures say of its state: "not cleanly unmounted" and the like. */
  readonly condition?: string | null;
  readonly used: number;
  readonly free: number;
  /** The unit that space is given out in. */
  readonly clusterBytes: number;
}

/** Why a file system says something: which structure, where. Becomes evidence of a find. */
export interface Trace {
  /** In plain words. */
  readonly what: string;
  /** Absolute byte offset of the structure. */
  readonly at: number;
}

/** A way the content of a file may lie. The bytes decide which of several is right. */
export interface Placement {
  readonly extents: readonly Extent[];
  readonly how: string;
  /** Holes in `extents`, in bytes, that are no zeros of the file: their places were given to others since. A lost end is cut off instead. */
  readonly lost?: number;
}

/** One file as a file system's structures tell of it, before anybody looked at its bytes. */
export interface ListedFile {
  /** Stays the same for the same source: the place of its record. */
  readonly at: number;
  readonly erased: boolean;
  /** Null where only its content's place is known. */
  readonly name: string | null;
  /** From the volume's root, with a leading slash. Null where its folder is not known. */
  readonly path: string | null;
  /** Bytes, as recorded. */
  readonly size: number;
  /** Milliseconds since 1970. FAT keeps local time without a zone: it is taken as it stands. */
  readonly modified: number | null;
  /** Likely first. Empty: its place is in use by something else now. */
  readonly placements: readonly Placement[];
  /** Where its first byte was, even if that place is in use now. */
  readonly firstByte: number | null;
  readonly traces: readonly Trace[];
  /** What tells this file from all others of the medium where place and size do not: inode, version. */
  readonly key?: string;
  /** It is an earlier version of the file whose record stands there: where their contents agree, it is no find. */
  readonly earlierOf?: number;
  /** Its chain runs into that of another present file: which bytes are whose cannot be told. In plain words. */
  readonly crossed?: string;
  /** Why its content cannot be given although its place is known: encrypted, compressed. */
  readonly sealed?: string;
}

/** Files and troubles as they are met. */
export interface FileBatch {
  readonly files: ListedFile[];
  /** Of files that were handed on before, by the place of their record: why they are not whole after all. */
  readonly spoiled?: readonly { readonly at: number; readonly because: string }[];
  readonly troubles: Trouble[];
}

/** Files handed on at once. */
const BATCH = 256;

/** A list in batches: whoever takes it is never handed all at once, and a file is told of when its batch is due. */
export function* inBatches<T>(items: readonly T[], toFile: (item: T) => ListedFile): Generator<FileBatch> {
  for (let at = 0; at < items.length; at += BATCH) yield { files: items.slice(at, at + BATCH).map(toFile), troubles: [] };
}

/** What is said of a volume that goes on behind the end of its source: nothing where it does not. Absolute bytes. */
export const cutOff = (end: number, sourceSize: number): Trouble[] =>
  end > sourceSize
    ? [{ what: `the volume is cut off: its last ${end - sourceSize} bytes are missing`, at: sourceSize, length: end - sourceSize }]
    : [];

/** A volume that can be read. Opening has read its allocation tables, nothing of it is ever written. */
export interface Volume {
  readonly info: VolumeInfo;
  readonly troubles: readonly Trouble[];
  /** Walks all folders, present and erased: batches of files and troubles. */
  list(): AsyncGenerator<FileBatch>;
  /** Stretches that no present file uses, in order, neighbours joined. */
  freeRuns(): Iterable<Extent>;
  /** The cheap first look: may a block of free space be told of by `dig`? It begins at `at` of these bytes, at absolute byte `place`. */
  mayDig(bytes: Uint8Array, at: number, place: number): boolean;
  /** Files told of by a lost folder or record block found in free space at `at`. Empty where none is there. */
  dig(block: Uint8Array, at: number): Promise<FileBatch>;
  /** How it lays out its clusters, where it has such: absolute byte of the first one, and bytes of each. */
  readonly space?: { readonly dataOffset: number; readonly clusterBytes: number };
}
