import type { Extent } from "../bytes/extents.ts";
import type { PackedWith } from "../bytes/inflate.ts";

/** How a content is packed: the bytes that are stored unpack to a stream, in which it begins behind `skip` bytes. */
export interface Packing {
  readonly with: PackedWith;
  readonly skip: number;
}

/** A file in an archive. */
export interface Entry {
  /** Where the archive tells of it: a byte in it, or in what it unpacks to. */
  readonly at: number;
  /** Its own path, with a slash before it. */
  readonly path: string;
  /** Bytes that its archive says it has. */
  readonly size: number;
  /** Milliseconds since 1970. */
  readonly modified: number | null;
  /** Where its content is stored, packed or not, counted in the archive. */
  readonly extents: readonly Extent[];
  readonly packed: Packing | null;
  /** CRC-32 of the content, where the archive keeps it. */
  readonly crc: number | null;
  /** A check sum over all that it lies in came out. */
  readonly vouched: boolean;
  /** Why its content cannot be had, in plain words, or null. */
  readonly sealed: string | null;
}

/** Files of one archive before we stop believing. */
export const MOST_ENTRIES = 200_000;
