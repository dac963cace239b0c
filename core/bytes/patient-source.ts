import { type CountedSource, cachedSource } from "./cached-source.ts";
import { type Extent, onMedium } from "./extents.ts";
import { RangeSet } from "./ranges.ts";
import { type ByteSource, UnreadableError, UnusableError } from "./source.ts";

/** Readings of one place before it is given up. */
const ATTEMPTS = 4;
/** The smallest piece that is asked for on its own: one sector of nearly every medium. */
const SECTOR = 512;

/** At the first sector that is given up, and after as many more in a row, the medium is asked whether it is there at all. */
const DOUBT_AFTER = 64;

const sectorOf = (offset: number): number => Math.floor(offset / SECTOR);

/** A source that never fails: what cannot be read comes as zeros and is remembered. */
export interface PatientSource extends CountedSource {
  /** Bytes that could not be read so far. */
  readonly unreadable: RangeSet;
}

/** Bytes of these extents that the medium did not give. */
export const unreadableIn = (source: PatientSource, extents: readonly Extent[]): number =>
  onMedium(extents).reduce((sum, { offset, length }) => sum + source.unreadable.overlap(offset, length), 0);

/**
 * Reads around bad places: a failed read is halved until single sectors are left, each asked for a bounded number of
 * times. So one dead sector costs that sector and not the window it lies in, and no pass has to know of it.
 * @throws UnusableError (from `read`) when the medium is gone: not even what was read before can be read again
 */
export function patientSource(raw: ByteSource): PatientSource {
  const source = cachedSource(raw);
  const unreadable = new RangeSet();
  for (const { offset, length } of raw.holes ?? []) unreadable.add(offset, length);
  /** A place that was read, to tell a bad stretch from a medium that was pulled out. */
  let good: { offset: number; length: number } | null = null;
  let givenUp = 0;
  /** Whether the medium answered when it was last asked. */
  let answering: Promise<boolean> | null = null;
  const attempt = async (offset: number, length: number): Promise<Uint8Array | null> => {
    try {
      const bytes = await source.read(offset, length);
      good = { offset, length: Math.min(SECTOR, length) };
      givenUp = 0;
      return bytes;
    } catch (cause) {
      if (cause instanceof UnreadableError) return cause.forGood ? around(cause, offset, length) : null;
      throw cause;
    }
  };
  const reading = async (offset: number, length: number): Promise<Uint8Array> =>
    length === 0 ? new Uint8Array(0) : ((await attempt(offset, length)) ?? gather(offset, length));
  /** What is lost for good is not asked for again; what lies before and after it is. Null: it lies elsewhere. */
  const around = async (lost: UnreadableError, offset: number, length: number): Promise<Uint8Array | null> => {
    const from = Math.max(offset, lost.offset);
    const to = Math.min(offset + length, lost.offset + lost.length);
    if (from >= to) return null;
    unreadable.add(from, to - from);
    const whole = new Uint8Array(length);
    whole.set(await reading(offset, from - offset), 0);
    whole.set(await reading(to, offset + length - to), to - offset);
    return whole;
  };
  /** Asks the medium itself, past everything that is kept of it. */
  const answers = async ({ offset, length }: { offset: number; length: number }): Promise<boolean> => {
    for (let tried = 0; tried < ATTEMPTS; tried++) {
      try {
        await raw.read(offset, length);
        return true;
      } catch (cause) {
        if (!(cause instanceof UnreadableError)) throw cause;
      }
    }
    return false;
  };
  const gather = async (offset: number, length: number): Promise<Uint8Array> => {
    const oneSector = sectorOf(offset) === sectorOf(offset + length - 1);
    if (oneSector && unreadable.overlap(offset, length) === length) return new Uint8Array(length);
    const tries = oneSector ? ATTEMPTS : 1;
    for (let tried = 0; tried < tries; tried++) {
      const bytes = await attempt(offset, length);
      if (bytes) return bytes;
    }
    if (oneSector) {
      if (givenUp++ % DOUBT_AFTER === 0 && good !== null) answering = answers(good);
      // Others who read at the same time wait for the answer: what is gone is not unreadable here and there.
      if (answering && !(await answering)) throw new UnusableError(`${raw.name} does not answer any more.`);
      unreadable.add(offset, length);
      return new Uint8Array(length);
    }
    // Halves that meet on a sector's boundary; the depth is bounded by log2(length / SECTOR).
    const border = Math.max(sectorOf(offset + length / 2), sectorOf(offset) + 1) * SECTOR;
    const whole = new Uint8Array(length);
    whole.set(await gather(offset, border - offset), 0);
    whole.set(await gather(border, offset + length - border), border - offset);
    return whole;
  };
  return {
    name: source.name,
    size: source.size,
    unreadable,
    get bytesRead() {
      return source.bytesRead;
    },
    read: reading,
  };
}
