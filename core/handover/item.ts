import { type Contents, contentBytes, type Stored } from "../archives/stream.ts";
import { type PatientSource, unreadableIn } from "../bytes/patient-source.ts";
import { piecesFrom } from "../bytes/pieces.ts";

/** What a file that is given back is made of. `M`: what media are called by. */
export type Pieces<M = unknown> =
  /** Bytes of a medium, packed there or not. */
  | (Stored & { readonly medium: M })
  | { readonly bytes: Uint8Array }
  /** Made when it is written, and only then. `size`: bytes, or null where only making it tells. */
  | { make(): AsyncIterable<Uint8Array>; readonly size: number | null };

/** One file that will be written: its path under the destination, with forward slashes, and what it is made of. */
export interface Item<M = unknown> {
  readonly path: string;
  readonly pieces: Pieces<M>;
  /** What its bytes hashed to when they were read before, or null. */
  readonly sha256: string | null;
  /** What it is, in a few words, for the summary: "erased, whole". */
  readonly about: string;
}

/** A medium that is read from: its contents, and what of it cannot be read. */
export interface OpenMedium {
  readonly contents: Contents;
  readonly source: PatientSource;
}

/** A file that can be written now: its bytes, and how many of them the medium did not give, once they were read. */
export interface Writable {
  readonly size: number | null;
  pieces(): AsyncIterable<Uint8Array>;
  lost(): number;
}

/** What an item needs to be written, or why it cannot be. */
export function writable<M>({ pieces }: Item<M>, mediumOf: (medium: M) => OpenMedium | string): Writable | string {
  if ("bytes" in pieces) return { size: pieces.bytes.length, pieces: () => once(pieces.bytes), lost: () => 0 };
  if ("make" in pieces) return { size: pieces.size, pieces: () => pieces.make(), lost: () => 0 };
  const medium = mediumOf(pieces.medium);
  if (typeof medium === "string") return medium;
  return {
    size: contentBytes(pieces),
    pieces: () => piecesFrom(medium.contents.of(pieces)),
    lost: () => unreadableIn(medium.source, pieces.extents),
  };
}

async function* once(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield bytes;
}

/** A text as bytes of UTF-8. */
export const textBytes = (text: string): Uint8Array => new TextEncoder().encode(text);
