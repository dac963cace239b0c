import { Turns } from "../work/turns.ts";
import { type CountedSource, cachedSource } from "./cached-source.ts";
import { type Extent, onMedium } from "./extents.ts";
import { PlaceLedger, SECTOR, STEPS, TRIES } from "./place-ledger.ts";
import type { RangeSet } from "./ranges.ts";
import { type ByteSource, UnreadableError, UnusableError } from "./source.ts";

/** Askings of a place that did read, before a medium counts as gone. */
const ATTEMPTS = 4;
/** At the first sector that is given up, and after as many more in a row, the medium is asked whether it is there at all. */
const DOUBT_AFTER = 64;
/** Milliseconds from which on one reading is slow. */
const SLOW_MS = 2000;

/** A source that never fails: what cannot be read comes as zeros and is remembered. */
export interface PatientSource extends CountedSource {
  /** Bytes that cannot be had, as far as is known. */
  readonly unreadable: RangeSet;
}

export interface Patience {
  /** What is known of the medium's places; one for all who read it. */
  readonly ledger?: PlaceLedger;
  /** Ends all reading between two sectors: reads throw its reason. */
  readonly signal?: AbortSignal;
  /** Milliseconds of any clock, to tell which places are slow. */
  readonly now?: () => number;
}

/** Bytes of these extents that the medium did not give. */
export const unreadableIn = (source: PatientSource, extents: readonly Extent[]): number =>
  onMedium(extents).reduce((sum, { offset, length }) => sum + source.unreadable.overlap(offset, length), 0);

/**
 * Reads around bad places: a piece that fails is asked for again in ever smaller ones, once in each size, and its sectors a bounded number of
 * times by themselves; what turned out to be sound is read in one piece from then on. So one dead sector costs that sector and not the window
 * it lies in, no pass has to know of it, and by the ledger no later reading asks for it again.
 * @throws UnusableError (from `read`) when the medium is gone: not even what was read before can be read again
 */
export function patientSource(raw: ByteSource, { ledger = new PlaceLedger(), signal, now }: Patience = {}): PatientSource {
  for (const { offset, length } of raw.holes ?? []) ledger.neverRead(offset, length);
  const careful = new CarefulReader(raw, ledger, signal, now);
  const source = cachedSource(
    { name: raw.name, size: raw.size, read: (offset, length) => careful.read(offset, length) },
    (offset, length) => careful.readAhead(offset, length),
  );
  return {
    name: raw.name,
    size: raw.size,
    unreadable: ledger.lost,
    get bytesRead() {
      return careful.bytesRead;
    },
    async read(offset, length) {
      signal?.throwIfAborted();
      return source.read(offset, length);
    },
  };
}

/** Reads a medium by what its ledger knows, and notes there what is learned. */
class CarefulReader {
  readonly #raw: ByteSource;
  readonly #ledger: PlaceLedger;
  readonly #signal: AbortSignal | undefined;
  readonly #now: (() => number) | undefined;
  /** A place that was read, to tell a bad stretch from a medium that was pulled out. */
  #good: { offset: number; length: number } | null = null;
  /** Sectors that failed since anything was read: dead, unless the medium is gone. */
  #doubted: Extent[] = [];
  /** Bad places are read by one at a time, so that nobody asks for what another one just asks for. */
  readonly #turns = new Turns();
  /** Stretches that are being read now. */
  readonly #underWay: { offset: number; length: number; over: Promise<void> }[] = [];
  bytesRead = 0;

  constructor(raw: ByteSource, ledger: PlaceLedger, signal: AbortSignal | undefined, now: (() => number) | undefined) {
    this.#raw = raw;
    this.#ledger = ledger;
    this.#signal = signal;
    this.#now = now;
  }

  /**
   * Reads more than was asked for, where nothing is known against it, or against its pieces in a larger stretch that failed.
   * @throws UnreadableError where it does not read at once
   */
  async readAhead(offset: number, length: number): Promise<Uint8Array> {
    const bytes = await this.#atOnce(offset, length);
    if (bytes) return bytes;
    if (length > STEPS[0]) throw new UnreadableError(offset, length);
    return this.#turns.take(async () => {
      if (!this.#ledger.mayBeSound(offset, length)) throw new UnreadableError(offset, length);
      return this.#gather(offset, length, true);
    });
  }

  /** Reads a stretch of which nothing bad is known; who wants a part of it at the same time waits for what becomes of it. Null: it fails. */
  async #atOnce(offset: number, length: number): Promise<Uint8Array | null> {
    for (;;) {
      if (!this.#ledger.isClean(offset, length)) return null;
      const other = this.#underWay.find((one) => one.offset < offset + length && offset < one.offset + one.length);
      if (!other) break;
      await other.over;
    }
    const reading = this.#attempt(0, offset, length);
    const over = reading.then(
      () => undefined,
      () => undefined,
    );
    const mine = { offset, length, over };
    this.#underWay.push(mine);
    try {
      return await reading;
    } finally {
      this.#underWay.splice(this.#underWay.indexOf(mine), 1);
    }
  }

  /** Whole sectors are read, whatever is asked for: one that is dead is dead in all of it. */
  async read(offset: number, length: number): Promise<Uint8Array> {
    const from = Math.floor(offset / SECTOR) * SECTOR;
    const to = Math.min(this.#raw.size, Math.ceil((offset + length) / SECTOR) * SECTOR);
    const bytes = await this.#sectors(from, to - from);
    return bytes.length === length ? bytes : bytes.subarray(offset - from, offset - from + length);
  }

  async #sectors(offset: number, length: number): Promise<Uint8Array> {
    const bytes = await this.#atOnce(offset, length);
    if (bytes) return bytes;
    return this.#turns.take(() => this.#gather(offset, length));
  }

  /** One reading of the medium itself; null where it fails, which is noted. */
  async #attempt(level: number, offset: number, length: number): Promise<Uint8Array | null> {
    this.#signal?.throwIfAborted();
    const began = this.#now?.();
    try {
      const bytes = await this.#raw.read(offset, length);
      // A late answer is nobody's.
      this.#signal?.throwIfAborted();
      this.bytesRead += length;
      this.#good = { offset, length: Math.min(SECTOR, length) };
      this.#settle(true);
      if (began !== undefined && this.#now && this.#now() - began > SLOW_MS) this.#ledger.isSlow(offset, length);
      return bytes;
    } catch (cause) {
      this.#signal?.throwIfAborted();
      if (!(cause instanceof UnreadableError)) throw cause;
      const isKnown = cause.forGood && this.#loseForGood(cause, offset, length);
      if (!isKnown && level < STEPS.length) this.#ledger.failedAt(level, offset, length);
      return null;
    }
  }

  /** What is lost for good is not asked for again; what lies before and after it is. @returns whether it lies in what was asked for */
  #loseForGood(lost: UnreadableError, offset: number, length: number): boolean {
    const from = Math.max(offset, lost.offset);
    const to = Math.min(offset + length, lost.offset + lost.length);
    if (from < to) this.#ledger.giveUp(from, to - from);
    return from < to;
  }

  /**
   * Reads a stretch in which something failed, piece by piece; what is lost comes as zeros. `untilOneFails`: a piece that does not read is not asked
   * for in smaller ones. @throws UnreadableError for that
   */
  async #gather(offset: number, length: number, untilOneFails = false): Promise<Uint8Array> {
    const whole = new Uint8Array(length);
    const end = offset + length;
    for (let at = offset; at < end; ) {
      this.#signal?.throwIfAborted();
      const [lost] = this.#ledger.lost.within(at, end - at);
      if (lost?.offset === at) {
        at += lost.length;
        continue;
      }
      const bytes = await this.#pieceAt(at, lost?.offset ?? end);
      if (!bytes && untilOneFails) throw new UnreadableError(offset, length);
      // A piece that failed is known to: the next turn asks for less of it.
      if (!bytes) continue;
      whole.set(bytes, at - offset);
      at += bytes.length;
    }
    if (this.#doubted.length > 0) await this.#isThere();
    return whole;
  }

  /** Reads as much from here on as may be asked for at once. Null: it fails, and less of it is asked for the next time. */
  async #pieceAt(at: number, end: number): Promise<Uint8Array | null> {
    const { level, to } = this.#ledger.stepAt(at, end);
    if (level === 0) return this.#attempt(level, at, to - at);
    const step = STEPS[level - 1];
    const piece = Math.min(to, (Math.floor(at / step) + 1) * step) - at;
    const proven = this.#ledger.provenTo(at, end) - at;
    if (proven > piece) {
      const bytes = await this.#attempt(STEPS.length, at, proven);
      if (!bytes) this.#ledger.doubts(at, proven);
      return bytes;
    }
    if (level === STEPS.length) return this.#sector(at, piece);
    const bytes = await this.#attempt(level, at, piece);
    if (bytes) this.#ledger.proves(at, piece);
    return bytes;
  }

  /** Asks for one sector, a bounded number of times. @returns zeros where it is given up */
  async #sector(offset: number, length: number): Promise<Uint8Array> {
    const before = this.#ledger.triesAt(offset);
    for (let tried = before; tried < TRIES; tried++) {
      const bytes = await this.#attempt(STEPS.length, offset, length);
      if (bytes) {
        if (tried > 0) this.#ledger.stutters(offset, length);
        else this.#ledger.proves(offset, length);
        return bytes;
      }
      // A medium that is gone says nothing against this place.
      if (tried === before && this.#doubted.length % DOUBT_AFTER === 0) await this.#isThere();
      this.#ledger.tried(offset);
    }
    this.#doubted.push({ offset, length });
    return new Uint8Array(length);
  }

  /** @throws UnusableError where not even what was read before can be read again; what was doubted stands otherwise */
  async #isThere(): Promise<void> {
    const good = this.#good;
    // Nothing was ever read: then there is nothing to compare with, and the places are what they seem.
    const there = good === null || (await this.#answers(good));
    this.#settle(there);
    if (!there) throw new UnusableError(`${this.#raw.name} does not answer any more.`);
  }

  async #answers({ offset, length }: Extent): Promise<boolean> {
    for (let tried = 0; tried < ATTEMPTS; tried++) {
      this.#signal?.throwIfAborted();
      try {
        await this.#raw.read(offset, length);
        return true;
      } catch (cause) {
        if (!(cause instanceof UnreadableError)) throw cause;
      }
    }
    return false;
  }

  #settle(there: boolean): void {
    const doubted = this.#doubted;
    this.#doubted = [];
    for (const { offset, length } of doubted) if (there) this.#ledger.giveUp(offset, length);
  }
}
