import { extentsSource, onMedium } from "../bytes/extents.ts";
import type { Sha256 } from "../bytes/hash.ts";
import type { PatientSource } from "../bytes/patient-source.ts";
import type { Find } from "../finds/find.ts";
import type { PlannedFile } from "./plan.ts";

/** Where files are given back to. It can only add new files: what is there stays. */
export interface Destination {
  /** Writes a new file. */
  write(path: string, pieces: AsyncIterable<Uint8Array>): Promise<void>;
  /** Called once, after the last write and before the first file is read back. */
  finish(): Promise<void>;
  /** Reads a written file again from where it went. */
  readBack(path: string): AsyncIterable<Uint8Array>;
}

/** What became of one file. */
export interface WrittenFile {
  readonly find: Find;
  readonly path: string;
  /** equal: read back, and its hash is that of the source. */
  readonly outcome: "equal" | "different" | "failed";
  readonly because: string | null;
  readonly sha256: string | null;
  readonly bytes: number;
}

export type WriteEvent = { readonly type: "written"; readonly path: string } | { readonly type: "checked"; readonly file: WrittenFile };

/** The hashes of all files, as `sha256sum -c` reads them. */
export const HASH_LIST = "sha256sums.txt";

/** Bytes carried at a time. */
const PIECE = 1024 * 1024;

async function* piecesOf(find: Find, source: PatientSource, sha256: Sha256): AsyncGenerator<Uint8Array> {
  const content = extentsSource(source, find.extents);
  for (let done = 0; done < content.size; done += PIECE) {
    const piece = await content.read(done, Math.min(PIECE, content.size - done));
    sha256.update(piece);
    yield piece;
  }
}

async function hashOf(pieces: AsyncIterable<Uint8Array>, sha256: Sha256): Promise<string> {
  sha256.start();
  for await (const piece of pieces) sha256.update(piece);
  return sha256.digest();
}

async function* text(lines: string): AsyncGenerator<Uint8Array> {
  yield new TextEncoder().encode(lines);
}

/**
 * Writes all files and a list of their hashes, then reads every one back and compares. A file that fails is said so,
 * and the rest goes on. Bytes that the medium does not give are written as zeros, and said so.
 */
export async function* writeFiles(
  files: readonly PlannedFile[],
  source: PatientSource,
  destination: Destination,
  sha256: Sha256,
  hashList = HASH_LIST,
): AsyncGenerator<WriteEvent> {
  const given: (PlannedFile & { bytes: number; hash: string | null; because: string | null })[] = [];
  for (const { find, path } of files) {
    const bytes = find.extents.reduce((sum, { length }) => sum + length, 0);
    try {
      sha256.start();
      await destination.write(path, piecesOf(find, source, sha256));
      const lost = onMedium(find.extents).reduce((sum, { offset, length }) => sum + source.unreadable.overlap(offset, length), 0);
      given.push({
        find,
        path,
        bytes,
        hash: sha256.digest(),
        because: lost > 0 ? `${lost} bytes cannot be read from the medium: zeros stand there` : null,
      });
    } catch (cause) {
      given.push({ find, path, bytes, hash: null, because: plain(cause) });
    }
    yield { type: "written", path };
  }
  const list = given.flatMap(({ hash, path }) => (hash ? [`${hash}  ${path}\n`] : []));
  await destination.write(hashList, text(list.join("")));
  await destination.finish();
  for (const { find, path, bytes, hash, because } of given) {
    if (hash === null) {
      yield { type: "checked", file: { find, path, bytes, sha256: null, outcome: "failed", because } };
      continue;
    }
    const arrived = await hashOf(destination.readBack(path), sha256).catch(plain);
    const equal = arrived === hash && (find.sha256 === null || find.sha256 === hash);
    yield {
      type: "checked",
      file: {
        find,
        path,
        bytes,
        sha256: hash,
        outcome: equal ? "equal" : "different",
        because: equal ? because : "what was read back is not what was written",
      },
    };
  }
}

const plain = (cause: unknown): string => (cause instanceof Error ? cause.message : String(cause));
