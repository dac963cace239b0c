import type { Extent } from "./extents.ts";
import { RangeSet } from "./ranges.ts";

/** The smallest piece that is asked for on its own: one sector of nearly every medium. */
export const SECTOR = 512;
/** Largest pieces, in bytes, in which a place is asked for that failed in a larger one: once in each size, then sector by sector. */
export const STEPS = [256 * 1024, 16 * 1024, SECTOR] as const;
/** Single askings of one sector before it is given up. With one in each larger piece a dead sector is asked for at most eight times. */
export const TRIES = 4;

/** A ledger as it is kept: plain data. Bytes; `tries`: sector numbers with how often each failed by itself. */
export interface KeptPlaces {
  readonly dead: readonly Extent[];
  readonly notRead: readonly Extent[];
  readonly flaky: readonly Extent[];
  readonly slow: readonly Extent[];
  readonly failed: readonly (readonly Extent[])[];
  readonly tries: readonly (readonly [number, number])[];
  /** Not in what was kept before these were. */
  readonly proven?: readonly Extent[];
  readonly unsure?: readonly Extent[];
}

export const NO_PLACES: KeptPlaces = { dead: [], notRead: [], flaky: [], slow: [], failed: [], tries: [] };

/**
 * What is known of the places of one medium: dead, flaky, slow, never read. One for all who read it, over all passes and restarts, so that
 * nobody asks a dying place again for what another one has asked already.
 */
export class PlaceLedger {
  /** Bytes that cannot be had: given up, or never read when a copy was made. */
  readonly lost = new RangeSet();
  readonly #dead = new RangeSet();
  readonly #notRead = new RangeSet();
  readonly #flaky = new RangeSet();
  readonly #slow = new RangeSet();
  /** Places that failed in a piece of any size, in one of STEPS[0], of STEPS[1]. */
  readonly #failed = [new RangeSet(), new RangeSet(), new RangeSet()] as const;
  readonly #tries = new Map<number, number>();
  /** Places in pieces that failed which read at once by themselves: their neighbours are to blame. */
  readonly #proven = new RangeSet();
  /** Proven places that failed together after all: each is asked for by itself from now on. */
  readonly #unsure = new RangeSet();
  /** Grows with every change: what is kept is old where it kept another number. */
  version = 0;

  /** In pieces of which size a place is asked for: 0 for any, else of STEPS[level - 1]; and up to which byte before `end` that holds. */
  stepAt(offset: number, end: number): { readonly level: number; readonly to: number } {
    let level = 0;
    let to = end;
    this.#failed.forEach((set, index) => {
      const [next] = set.within(offset, end - offset);
      if (!next) return;
      if (next.offset > offset) to = Math.min(to, next.offset);
      else {
        level = index + 1;
        to = Math.min(to, next.offset + next.length);
      }
    });
    return { level, to };
  }

  /** Up to which byte before `end` places are proven, beginning at `offset`: they can be read at once. `offset` where this one is not. */
  provenTo(offset: number, end: number): number {
    const to = Math.min(end, this.#proven.endOfStretchAt(offset) ?? offset);
    const [unsure] = this.#unsure.within(offset, to - offset);
    return unsure ? unsure.offset : to;
  }

  /** Is no part of this lost, or to be asked for sector by sector? */
  mayBeSound(offset: number, length: number): boolean {
    if (this.lost.within(offset, length).length > 0) return false;
    return this.#failed[STEPS.length - 1]
      .within(offset, length)
      .every((part) => this.provenTo(part.offset, part.offset + part.length) === part.offset + part.length);
  }

  /** A smaller piece of one that failed read when it was asked for the first time. */
  proves(offset: number, length: number): void {
    if (this.#proven.overlap(offset, length) === length) return;
    this.#proven.add(offset, length);
    this.version++;
  }

  /** Proven places did not read when they were asked for at once: that is not tried a second time. */
  doubts(offset: number, length: number): void {
    this.#unsure.add(offset, length);
    this.version++;
  }

  /** Did nothing ever fail here? */
  isClean(offset: number, length: number): boolean {
    return this.#failed[0].within(offset, length).length === 0 && this.lost.within(offset, length).length === 0;
  }

  /** A piece failed that was asked for at a level: it is asked for in smaller ones from now on. */
  failedAt(level: number, offset: number, length: number): void {
    for (const set of this.#failed.slice(0, level + 1)) set.add(offset, length);
    this.version++;
  }

  /** A single sector failed. @returns how often it did until now */
  tried(offset: number): number {
    const sector = Math.floor(offset / SECTOR);
    const tries = (this.#tries.get(sector) ?? 0) + 1;
    this.#tries.set(sector, tries);
    this.version++;
    return tries;
  }

  triesAt(offset: number): number {
    return this.#tries.get(Math.floor(offset / SECTOR)) ?? 0;
  }

  /** It reads after all. */
  stutters(offset: number, length: number): void {
    this.#tries.delete(Math.floor(offset / SECTOR));
    this.#flaky.add(offset, length);
    this.version++;
  }

  giveUp(offset: number, length: number): void {
    this.#dead.add(offset, length);
    this.lost.add(offset, length);
    this.#tries.delete(Math.floor(offset / SECTOR));
    this.version++;
  }

  /** It was never read when the copy was made. */
  neverRead(offset: number, length: number): void {
    if (this.#notRead.overlap(offset, length) === length) return;
    this.#notRead.add(offset, length);
    this.lost.add(offset, length);
    this.version++;
  }

  isSlow(offset: number, length: number): void {
    this.#slow.add(offset, length);
    this.version++;
  }

  /** Takes over what another one knows, or what was kept. */
  merge(kept: KeptPlaces): void {
    for (const { offset, length } of kept.dead) this.giveUp(offset, length);
    for (const { offset, length } of kept.notRead) this.neverRead(offset, length);
    for (const { offset, length } of kept.flaky) this.#flaky.add(offset, length);
    for (const { offset, length } of kept.slow) this.#slow.add(offset, length);
    for (const { offset, length } of kept.proven ?? []) this.#proven.add(offset, length);
    for (const { offset, length } of kept.unsure ?? []) this.#unsure.add(offset, length);
    kept.failed.forEach((places, level) => {
      for (const { offset, length } of places) this.#failed[level]?.add(offset, length);
    });
    for (const [sector, tries] of kept.tries)
      if (this.#dead.overlap(sector * SECTOR, 1) === 0) this.#tries.set(sector, Math.max(tries, this.#tries.get(sector) ?? 0));
    this.version++;
  }

  kept(): KeptPlaces {
    return {
      dead: this.#dead.list(),
      notRead: this.#notRead.list(),
      flaky: this.#flaky.list(),
      slow: this.#slow.list(),
      failed: this.#failed.map((set) => set.list()),
      tries: [...this.#tries],
      proven: this.#proven.list(),
      unsure: this.#unsure.list(),
    };
  }
}
