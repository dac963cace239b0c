import { equalBytes } from "../bytes/equal.ts";
import type { Extent } from "../bytes/extents.ts";
import type { ResumableSha256 } from "../bytes/hash.ts";
import { patientSource } from "../bytes/patient-source.ts";
import { PlaceLedger } from "../bytes/place-ledger.ts";
import { RangeSet } from "../bytes/ranges.ts";
import { type ByteSource, UnusableError } from "../bytes/source.ts";

/** Where a working copy is written: a file of its own, never the source. */
export interface CopyTarget {
  write(at: number, bytes: Uint8Array): Promise<void>;
  /** What an earlier run wrote. */
  read(at: number, length: number): Promise<Uint8Array>;
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
/** Bytes before the mark that are read again before a copy goes on, and how many such stretches back are looked at for some that say anything. */
const AGAIN = 64 * 1024;
const MOST_BACK = 1024;

/**
 * Copies a source from start to end in large reads, hashing what is written (FIPS 180-4). Yields a mark after every window;
 * not pulling is a pause. Bad places are asked for again in smaller reads, a bounded number of times, and come as zeros.
 * A copy that goes on first compares the last bytes before its mark with the source.
 * @throws UnusableError when the source is gone (the last mark is where to go on), or is not the one that the copy was begun from
 */
export async function* copySource(
  source: ByteSource,
  target: CopyTarget,
  sha256: ResumableSha256,
  from: CopyMark,
  signal?: AbortSignal,
): AsyncGenerator<CopyMark, void> {
  const ledger = new PlaceLedger();
  // Places that were given up before are not asked for again.
  for (const { offset, length } of from.unreadable) ledger.giveUp(offset, length);
  const patient = patientSource(source, { ledger, ...(signal && { signal }) });
  await isTheSame(source, target, from);
  if (from.hash) sha256.load(from.hash);
  else sha256.start();
  for (let at = from.done; at < source.size; ) {
    const bytes = await patient.read(at, Math.min(WINDOW, source.size - at));
    await target.write(at, bytes);
    signal?.throwIfAborted();
    sha256.update(bytes);
    at += bytes.length;
    yield { done: at, hash: sha256.save(), unreadable: patient.unreadable.list() };
  }
}

/** The last stretch before the mark that says anything: read when it was copied, and not only zeros. */
async function lastWords(target: CopyTarget, from: CopyMark): Promise<{ at: number; bytes: Uint8Array } | null> {
  const holes = new RangeSet();
  for (const { offset, length } of from.unreadable) holes.add(offset, length);
  for (let end = from.done, looked = 0; end > 0 && looked < MOST_BACK; end -= AGAIN, looked++) {
    const at = Math.max(0, end - AGAIN);
    if (holes.overlap(at, end - at) > 0) continue;
    const bytes = await target.read(at, end - at);
    if (bytes.length !== end - at) throw new UnusableError("The copy is shorter than was noted: it cannot be gone on with. Begin it anew.");
    if (bytes.some((byte) => byte !== 0)) return { at, bytes };
  }
  return null;
}

/** @throws UnusableError where the source does not hold what was copied from it last */
async function isTheSame(source: ByteSource, target: CopyTarget, from: CopyMark): Promise<void> {
  const last = await lastWords(target, from);
  if (!last) return;
  const patient = patientSource(source);
  const again = await patient.read(last.at, last.bytes.length);
  // A place that died since then says nothing against it.
  if (patient.unreadable.bytes > 0 || equalBytes(again, last.bytes)) return;
  throw new UnusableError(
    `${source.name} does not hold what was copied from it last (bytes ${last.at} to ${last.at + last.bytes.length}): it is another one, or it was changed since. What was copied is kept as it is.`,
  );
}
