import type { Sha256 } from "../bytes/hash.ts";
import { type Item, type OpenMedium, textBytes, writable } from "./item.ts";
import { whyNot } from "./refusals.ts";

/** Where files are given back to. It can only add new files: what is there stays. */
export interface Destination {
  /** Writes a new file. One that fails leaves nothing under its name. */
  write(path: string, pieces: AsyncIterable<Uint8Array>): Promise<void>;
  /** Called once, after the last write and before the first file is read back. */
  finish(): Promise<void>;
  /** Reads a written file again from where it went. */
  readBack(path: string): AsyncIterable<Uint8Array>;
}

/** What became of one file. */
export interface WrittenFile<I extends Item = Item> {
  readonly item: I;
  readonly path: string;
  /** equal: read back, and its hash is that of the source. holes: so too, but the medium did not give all of it. */
  readonly outcome: "equal" | "holes" | "different" | "failed";
  readonly because: string | null;
  readonly sha256: string | null;
  readonly bytes: number;
  /** Bytes of it that could not be read: zeros stand there. */
  readonly lost: number;
}

export type WriteEvent<I extends Item = Item> =
  | { readonly type: "written"; readonly path: string }
  | { readonly type: "checked"; readonly file: WrittenFile<I> }
  /** The list of hashes could not be written: why. */
  | { readonly type: "no list"; readonly because: string };

/** The hashes of all files, as `sha256sum -c` reads them. */
export const HASH_LIST = "sha256sums.txt";

/** The same pieces, hashed as they pass; `passed` is told how many bytes each has. */
async function* hashed(pieces: AsyncIterable<Uint8Array>, sha256: Sha256, passed: (bytes: number) => void): AsyncGenerator<Uint8Array> {
  for await (const piece of pieces) {
    sha256.update(piece);
    passed(piece.length);
    yield piece;
  }
}

async function hashOf(pieces: AsyncIterable<Uint8Array>, sha256: Sha256): Promise<string> {
  sha256.start();
  for await (const piece of pieces) sha256.update(piece);
  return sha256.digest();
}

/**
 * Writes all files and a list of their hashes, then reads every one back and compares. A file that fails is told at once, leaves
 * nothing under its name, and the rest goes on. `mediumOf`: the medium that a file lies on, or why it cannot be read. Bytes that the medium does not
 * give are written as zeros, and said so.
 * @throws whatever `finish` throws: an archive that could not be ended holds nothing
 */
export async function* writeFiles<M, I extends Item<M>>(
  items: readonly I[],
  mediumOf: (medium: M) => OpenMedium | string,
  destination: Destination,
  sha256: Sha256,
  hashList = HASH_LIST,
): AsyncGenerator<WriteEvent<I>> {
  const given: (Omit<WrittenFile<I>, "outcome" | "sha256"> & { hash: string })[] = [];
  for (const item of items) {
    const { path } = item;
    const file = writable(item, mediumOf);
    const failed = (bytes: number, because: string): WriteEvent<I> => ({
      type: "checked",
      file: { item, path, bytes, lost: 0, sha256: null, outcome: "failed", because },
    });
    if (typeof file === "string") {
      yield failed(0, file);
      continue;
    }
    let bytes = 0;
    try {
      sha256.start();
      await destination.write(
        path,
        hashed(file.pieces(), sha256, (length) => {
          bytes += length;
        }),
      );
    } catch (cause) {
      yield failed(file.size ?? bytes, whyNot(cause));
      continue;
    }
    const lost = file.lost();
    const because = lost > 0 ? `${lost} bytes cannot be read from the medium: zeros stand there` : null;
    given.push({ item, path, bytes, hash: sha256.digest(), lost, because });
    yield { type: "written", path };
  }
  const list = given.map(({ hash, path }) => `${hash}  ${path}\n`).join("");
  const refused = await destination.write(hashList, asPiece(list)).then(() => null, whyNot);
  if (refused !== null) yield { type: "no list", because: refused };
  await destination.finish();
  for (const { hash, because, ...file } of given) {
    const arrived = await hashOf(destination.readBack(file.path), sha256).catch((cause: unknown) => ({ because: whyNot(cause) }));
    const told = { ...file, sha256: hash } as const;
    if (typeof arrived !== "string")
      yield { type: "checked", file: { ...told, outcome: "different", because: `it cannot be read back: ${arrived.because}` } };
    else if (arrived !== hash)
      yield { type: "checked", file: { ...told, outcome: "different", because: "what was read back is not what was written" } };
    // Bytes that could not be read are told of as such: the scan may have had them.
    else if (file.lost === 0 && file.item.sha256 !== null && file.item.sha256 !== hash)
      yield {
        type: "checked",
        file: { ...told, outcome: "different", because: "the medium gave other bytes for it than when it was scanned" },
      };
    else yield { type: "checked", file: { ...told, outcome: file.lost > 0 ? "holes" : "equal", because } };
  }
}

async function* asPiece(text: string): AsyncGenerator<Uint8Array> {
  yield textBytes(text);
}
