import type { StoreApi } from "zustand";
import { partsOfKey } from "../../core/finds/find-key.ts";
import { isUnderWay } from "../../core/work/work-state.ts";
import type { Desks } from "./desks.ts";
import { inUse, type SessionState, scanOf } from "./session-state.ts";

/** Finds that are compared at a time: in between a scan may begin. */
const AT_A_TIME = 40;

/**
 * When all scans of a ticket are done, what may be one thing in two places is read and compared, a few at a time: only from media that read well and
 * are not read off a phone, since nobody asked for it.
 */
export class Comparing {
  readonly #job: number;
  readonly #store: StoreApi<SessionState>;
  readonly #desks: Desks;
  #isBusy = false;
  /** Finds that were compared in this page's life, with whatever came of it. */
  readonly #compared = new Set<string>();

  constructor(job: number, store: StoreApi<SessionState>, desks: Desks) {
    this.#job = job;
    this.#store = store;
    this.#desks = desks;
  }

  /** Media that can be compared now; none while any is worked on. */
  #media(): ReadonlySet<number> {
    const media = inUse(this.#store.getState().media);
    if (media.some((state) => isUnderWay(scanOf(state).status))) return new Set();
    const sound = media.filter(
      (state) => state.storage === "open" && state.medium.source?.kind !== "phone" && scanOf(state).unreadable.length === 0,
    );
    return new Set(sound.map(({ medium }) => medium.id));
  }

  /** Compares what is to be compared now. @returns whether there was anything, and it was not interrupted */
  async #compareAll(): Promise<boolean> {
    if (this.#media().size < 2) return false;
    const left = (await this.#desks.index.twins()).filter((key) => !this.#compared.has(key));
    let compared = 0;
    for (let at = 0; at < left.length; at += AT_A_TIME) {
      const media = this.#media();
      if (media.size < 2) return false;
      const some = left.slice(at, at + AT_A_TIME).filter((key) => media.has(partsOfKey(key).medium));
      for (const key of some) this.#compared.add(key);
      compared += some.length;
      if (some.length > 0) await this.#desks.reading.compare(this.#job, some);
    }
    return compared > 0;
  }

  /** Compares what is left to be compared, where that can be done now. */
  async goOn(): Promise<void> {
    if (this.#isBusy) return;
    this.#isBusy = true;
    try {
      // Once more at the end: a scan may have told more meanwhile.
      while (await this.#compareAll());
    } finally {
      this.#isBusy = false;
    }
  }
}
