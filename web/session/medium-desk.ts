import { transfer } from "comlink";
import type { StoreApi } from "zustand";
import type { Asked } from "../../core/scan/checkpoint.ts";
import { isOver, isUnderWay } from "../../core/work/work-state.ts";
import { loadMedium } from "../kept/database.ts";
import { askedOf } from "../kept/kept-scan.ts";
import type { Medium } from "../kept/medium.ts";
import type { CopyNews, News } from "../kept/news.ts";
import { Ownership } from "../kept/ownership.ts";
import { phoneDesk } from "../phones/phones.ts";
import { noteWork } from "../shell/work-under-way.ts";
import type { CopyPlace } from "../worker/phones/protocol.ts";
import type { Grant, Outcome } from "../worker/storage/grant.ts";
import type { Desks } from "./desks.ts";
import { askPassphrase } from "./passphrase.ts";
import type { MediumState, SessionState } from "./session-state.ts";
import { type Access, accessTo, askAgain, rememberGrant } from "./storage-access.ts";

const handed = (grant: Grant): Grant => (grant.kind === "port" ? transfer(grant, [grant.port]) : grant);

/** One medium of an open ticket: opens its storage, and leads its scan or watches the one of another tab. */
export class MediumDesk {
  readonly id: number;
  readonly #store: StoreApi<SessionState>;
  readonly #desks: Desks;
  #watching: AbortController | null = null;
  /** Does this page make its working copy? */
  #copiesHere = false;

  constructor(id: number, store: StoreApi<SessionState>, desks: Desks) {
    this.id = id;
    this.#store = store;
    this.#desks = desks;
  }

  get #state(): MediumState | null {
    return this.#store.getState().media.find(({ medium }) => medium.id === this.id) ?? null;
  }

  #change(change: Partial<MediumState>): void {
    this.#store.setState(({ media }) => ({ media: media.map((one) => (one.medium.id === this.id ? { ...one, ...change } : one)) }));
  }

  /** Opens its storage where that can be done without asking; a scan that a reload broke off goes on by itself. */
  async open(): Promise<void> {
    await this.#see();
    const medium = this.#state?.medium;
    if (!medium?.source) {
      this.#change({ storage: "none" });
      return;
    }
    await this.#use(await accessTo(this.id, medium.source));
    await this.#goOn();
  }

  /** Something that was asked for it did not come about: why. */
  say(problem: string): void {
    this.#change({ problem });
  }

  /** Whether anybody works on it now, and until when. */
  async #see(): Promise<void> {
    if ((await Ownership.isTaken(this.id)) && this.#state?.worked !== "here") this.#isElsewhere();
  }

  #isElsewhere(): void {
    this.#change({ worked: "elsewhere" });
    void this.#watch();
  }

  /** Hears when whoever works on it lets go. */
  async #watch(): Promise<void> {
    if (this.#watching) return;
    this.#watching = new AbortController();
    try {
      await Ownership.free(this.id, this.#watching.signal);
      const medium = await loadMedium(this.id);
      if (medium && this.#state?.worked === "elsewhere") this.#change({ worked: "nowhere", medium, news: null });
    } catch {
      // It is worked on here now.
    }
    this.#watching = null;
  }

  async #use(access: Access): Promise<void> {
    if (access.kind !== "granted") this.#change({ storage: access });
    else await this.#attach(access.grant);
  }

  async #attach(grant: Grant): Promise<void> {
    let outcome: Outcome = await this.#desks.reading.attach(this.id, handed(grant));
    // An encrypted backup whose unpacked archive the browser threw away.
    for (let tries = 0; !outcome.ok && outcome.passphrase && grant.kind === "file"; tries++) {
      const passphrase = await askPassphrase(grant.file.name, tries > 0);
      if (passphrase === null) break;
      outcome = await this.#desks.reading.attach(this.id, { ...grant, passphrase });
    }
    if (outcome.ok) this.#change({ storage: "open", problem: null });
    else this.#change({ storage: { kind: "needs file", because: outcome.because }, problem: outcome.because });
  }

  /** A scan that a reload broke off goes on by itself; what was paused or stopped stays so, and what another tab works on too. */
  async #goOn(): Promise<void> {
    const state = this.#state;
    if (state?.storage === "open" && state.worked === "nowhere" && isUnderWay((state.news?.scan ?? state.medium.scan).status))
      await this.start(askedOf(state.medium.scan));
  }

  /** The person clicked to open the stored handle again, or its phone is back. */
  async reopen(): Promise<void> {
    const state = this.#state;
    if (!state || typeof state.storage !== "object") return;
    const { storage, medium } = state;
    if (storage.kind === "needs click") await this.#use(await askAgain(storage.handle, storage.lacks));
    else if (storage.kind === "needs phone" && medium.source) {
      const access = await accessTo(this.id, medium.source);
      if (access.kind === "needs phone") return;
      await this.#use(access);
    }
    await this.#goOn();
  }

  /** The person gave the file or folder again. */
  async giveAgain(grant: Grant): Promise<void> {
    await this.#attach(grant);
    const state = this.#state;
    if (state?.storage !== "open" || !state.medium.source) return;
    rememberGrant(state.medium.source.sample, grant);
    await this.#goOn();
  }

  /** Begins, goes on, or wakes a scan. `steal`: takes it from the tab that has it. */
  async start(asked: Asked, steal = false): Promise<void> {
    const source = this.#state?.medium.source;
    if (!source) return;
    const access = await accessTo(this.id, source);
    if (access.kind !== "granted") {
      this.#change({ storage: access });
      return;
    }
    this.#watching?.abort();
    // Its first news may come before the worker's answer.
    this.#change({ worked: "here", problem: null });
    const started = await this.#desks.scan(this.id).start(handed(access.grant), asked, steal);
    if (started.ok) return;
    if (started.elsewhere) this.#isElsewhere();
    else this.#change({ worked: "nowhere", problem: started.because });
  }

  pause(): void {
    void this.#desks.scan(this.id).pause();
  }

  stop(): void {
    void this.#desks.scan(this.id).stop();
  }

  /** Its scan was heard of. What an owner of before still says is old. */
  heard(news: News): void {
    const state = this.#state;
    if (!state || news.owner < (state.news?.owner ?? 0)) return;
    const isOther = state.worked === "here" && news.owner > (state.news?.owner ?? news.owner);
    this.#change({ news });
    noteWork(`scan ${this.id}`, !isOther && state.worked === "here" && isUnderWay(news.scan.status));
    if (isOther) this.#isElsewhere();
    else if (isOver(news.scan.status)) this.#change({ worked: "nowhere" });
    else if (state.worked === "nowhere") void this.#see();
  }

  /** Begins a working copy, goes on with one, or wakes one that rests. `steal`: takes it from the tab that has it. @returns why not, or null */
  async copy(place: CopyPlace | null, steal = false): Promise<string | null> {
    const wasHere = this.#copiesHere;
    // Its first news may come before the worker's answer.
    this.#copiesHere = true;
    const outcome = await phoneDesk().copy(this.id, place, steal);
    if (outcome.ok) return null;
    this.#copiesHere = wasHere;
    return outcome.because;
  }

  /** Its working copy was heard of. @returns whether it was made here, is whole now, and nothing was worked on yet */
  heardCopy(copy: CopyNews): boolean {
    const isHere = this.#copiesHere;
    if (isOver(copy.status)) this.#copiesHere = false;
    noteWork(`copy ${this.id}`, isHere && isUnderWay(copy.status));
    this.#change({ copy, ...(isHere && { worked: isOver(copy.status) ? "nowhere" : "here" }) });
    if (!isHere && !isOver(copy.status)) this.#isElsewhere();
    return isHere && copy.status === "done" && this.#state?.medium.source === null;
  }

  /** The row was changed: by this page or another. */
  reloaded(medium: Medium): void {
    const before = this.#state?.medium;
    this.#change({ medium });
    if (before && JSON.stringify(before.source) !== JSON.stringify(medium.source)) void this.open();
  }

  close(): void {
    this.#watching?.abort();
    for (const work of ["scan", "copy"]) noteWork(`${work} ${this.id}`, false);
  }
}
