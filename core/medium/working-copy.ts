import type { Extent } from "../bytes/extents.ts";
import type { ResumableSha256 } from "../bytes/hash.ts";
import { patientSource } from "../bytes/patient-source.ts";
import type { ByteSource } from "../bytes/source.ts";

/** Where a working copy is written: a file of its own, never the source. */
export interface CopyTarget {
  write(at: number, bytes: Uint8Array): Promise<void>;
}

/** How far a copy got: enough to go on from in another process. Offsets and lengths in bytes. */
export interface CopyMark {
  /** Everything before this byte is in the copy. */
  readonly done: number;
  /** State of the running SHA-256 over it. */
  readonly hash: Uint8Array | null;
  /** Ranges that the source did not give: zeros stand there in the copy. */
  readonly unreadable: readonly Extent[];
}

export const COPY_BEGIN: CopyMark = { done: 0, hash: null, unreadable: [] };

const WINDOW = 4 * 1024 * 1024;

/**
 * Copies a source from start to end in large reads, hashing what is written (FIPS 180-4). Yields a mark after every window;
 * not pulling is a pause. Bad places are asked for again in smaller reads, a bounded number of times, and come as zeros.
 * @throws UnusableError when the source is gone: the last mark is where to go on
 */
export async function* copySource(
  source: ByteSource,
  target: CopyTarget,
  sha256: ResumableSha256,
  from: CopyMark,
): AsyncGenerator<CopyMark> {
  const patient = patientSource(source);
  const before = from.unreadable;
  if (from.hash) sha256.load(from.hash);
  else sha256.start();
  for (let at = from.done; at < source.size; ) {
    const bytes = await patient.read(at, Math.min(WINDOW, source.size - at));
    await target.write(at, bytes);
    sha256.update(bytes);
    at += bytes.length;
    yield { done: at, hash: sha256.save(), unreadable: [...before, ...patient.unreadable.list()] };
  }
}
