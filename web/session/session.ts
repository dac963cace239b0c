import { proxy } from "comlink";
import { createStore, type StoreApi } from "zustand/vanilla";
import { partsOfKey } from "../../core/finds/find-key.ts";
import { EVERYTHING, type Query } from "../../core/finds/find-query.ts";
import { whyNot } from "../../core/handover/refusals.ts";
import type { Asked } from "../../core/scan/checkpoint.ts";
import { EVERYTHING_THERE } from "../../core/scan/scope.ts";
import type { HandJoin } from "../../core/stores/people/persons.ts";
import { NOBODY } from "../../core/stores/people/questions.ts";
import type { Want } from "../../core/triage/intake.ts";
import { database, loadJob, loadMedia, loadPart } from "../kept/database.ts";
import type { HandOverRecord, Job } from "../kept/job.ts";
import type { SourceRef } from "../kept/medium.ts";
import { Line, type Notice } from "../kept/news.ts";
import { whyUnkept } from "../kept/no-room.ts";
import { lacksOf } from "../kept/part.ts";
import { settlePending } from "../kept/pending.ts";
import { removeMedia } from "../kept/removal.ts";
import { noteWork } from "../shell/work-under-way.ts";
import type { Found } from "../worker/finds/protocol.ts";
import type { HandOverNews, Target } from "../worker/reading/protocol.ts";
import type { Grant } from "../worker/storage/grant.ts";
import { Comparing } from "./comparing.ts";
import type { Desks } from "./desks.ts";
import { Looking } from "./looking.ts";
import { MediumDesk } from "./medium-desk.ts";
import { addLooked, lookAt, type Offered } from "./offered.ts";
import { EMPTY_TRAY, NOTHING_WRITTEN, type SessionState } from "./session-state.ts";
import { accessTo } from "./storage-access.ts";
import { type Change, TicketChanges } from "./ticket-changes.ts";

/** What is said by hand of addresses in one ticket at most. */
const MOST_JOINS = 5000;

/** One ticket that is open: its media, its workers, and what the screens show of it. Usable without React, and without a browser. */
export class Session {
  readonly id: number;
  readonly store: StoreApi<SessionState>;
  readonly desks: Desks;
  readonly #looking: Looking;
  readonly #media = new Map<number, MediumDesk>();
  readonly #line = new Line((notice) => void this.#hear(notice));
  readonly #comparing: Comparing;
  readonly #changes: TicketChanges;
  /** Kept when the ticket and its media are there: storage may still be opening. */
  readonly opened: Promise<void>;

  constructor(id: number, desks: Desks) {
    this.id = id;
    this.desks = desks;
    this.store = createStore<SessionState>(() => ({
      job: "loading",
      media: [],
      inHand: null,
      problem: null,
      unkept: null,
      query: EVERYTHING,
      answer: null,
      selected: null,
      behind: null,
      people: { counts: NOBODY, generation: 0 },
      tray: new Set<string>(),
      traySum: EMPTY_TRAY,
      handOver: NOTHING_WRITTEN,
    }));
    this.#looking = new Looking(this.store, desks);
    this.#comparing = new Comparing(id, this.store, desks);
    this.#changes = new TicketChanges(id, this.store, this.#line);
    this.opened = this.#open();
  }

  get job(): Job | null {
    const { job } = this.store.getState();
    return job === "loading" ? null : job;
  }

  async #open(): Promise<void> {
    try {
      if (typeof localStorage !== "undefined") await settlePending(localStorage, this.id).catch(() => undefined);
      const job = await loadJob(this.id);
      if (!job) {
        this.store.setState({ job: null });
        return;
      }
      await this.desks.index.open(
        this.id,
        proxy(() => {
          void this.ask({});
          void this.#countPeople();
          void this.#comparing.goOn();
        }),
      );
      this.store.setState({ tray: new Set(job.tray) });
      await this.#readMedia();
      this.store.setState({ job });
    } catch (cause) {
      this.store.setState({
        job: null,
        problem: `This ticket cannot be opened: ${cause instanceof Error ? cause.message : String(cause)}`,
      });
      return;
    }
    await this.#countTray();
    await this.ask({});
    await this.#countPeople();
    await Promise.all([...this.#media.values()].map((desk) => desk.open()));
    this.#looking.forget();
    void this.#comparing.goOn();
  }

  /** The ticket's media as they are kept now: those that came get a desk, those that went lose theirs. */
  async #readMedia(): Promise<void> {
    const rows = await loadMedia(this.id);
    for (const [id, desk] of [...this.#media])
      if (!rows.some((row) => row.id === id)) {
        desk.close();
        this.#media.delete(id);
      }
    const fresh = rows.filter(({ id }) => !this.#media.has(id));
    for (const { id } of fresh) this.#media.set(id, new MediumDesk(id, this.store, this.desks));
    this.store.setState(({ media, inHand }) => {
      const states = rows.map((medium) => {
        const known = media.find((one) => one.medium.id === medium.id);
        return known
          ? { ...known, medium }
          : ({ medium, news: null, storage: "opening", problem: null, copy: null, worked: "nowhere" } as const);
      });
      const isThere = states.some(({ medium }) => medium.id === inHand);
      return { media: states, inHand: isThere ? inHand : (states.find(({ medium }) => !medium.aside)?.medium.id ?? null) };
    });
    if (this.store.getState().job !== "loading") for (const { id } of fresh) await this.#media.get(id)?.open();
  }

  async #hear(notice: Notice): Promise<void> {
    if (!("job" in notice) || notice.job !== this.id || this.store.getState().job === "loading") return;
    if (notice.type === "news") this.#media.get(notice.medium)?.heard(notice.news);
    else if (notice.type === "copy") {
      if (this.#media.get(notice.medium)?.heardCopy(notice.copy)) await this.#workOnCopy(notice.medium);
    } else if (notice.type === "media") await this.reread();
    else if (notice.type === "gone") this.store.setState({ job: null, problem: null });
    else if (notice.type === "ticket" && notice.by !== this.#changes.name) await this.#readTicket();
  }

  /** Another tab changed the ticket. */
  async #readTicket(): Promise<void> {
    const job = await loadJob(this.id);
    if (!job) return;
    this.store.setState({ job, tray: new Set(job.tray) });
    await this.#countTray();
  }

  /** Media were added or changed here: everybody hears it, and one oneself. */
  async #mediaChanged(): Promise<void> {
    this.#line.say({ type: "media", job: this.id });
    await this.reread();
  }

  /** Media came, went, or were set aside: what is chosen of them counts, or does not any more. */
  async reread(): Promise<void> {
    await this.#readMedia();
    await this.desks.index.reread();
    await this.#countTray();
  }

  medium(id: number): MediumDesk | null {
    return this.#media.get(id) ?? null;
  }
  /** The medium in hand. */
  get inHand(): MediumDesk | null {
    const { inHand } = this.store.getState();
    return inHand === null ? null : this.medium(inHand);
  }

  takeInHand(id: number): void {
    this.store.setState({ inHand: id });
  }

  /** The person put storage on the bench: it is a medium of this ticket from now on. @returns why it cannot be worked on, or null */
  async addStorage(offered: Offered): Promise<string | null> {
    const looked = await lookAt(offered);
    if (!looked.ok) return looked.because;
    const id = await addLooked(this.id, looked);
    await this.#mediaChanged();
    this.takeInHand(id);
    return null;
  }

  /** A part of a phone that was found can be read: from its copy, as far as that goes, or directly. @returns why it cannot be worked on, or null */
  async readPart(id: number, how: "copy" | "phone"): Promise<string | null> {
    const part = await loadPart(id);
    if (!part) return "This part was removed from its ticket.";
    if (how === "copy" && part.place?.kind === "file") {
      const file = await part.place.handle.getFile();
      const lacks = lacksOf(part);
      return this.#readAs(id, { grant: { kind: "file", file, ...(lacks && { lacks }) }, handle: part.place.handle });
    }
    const access = await accessTo(id, { kind: how, name: part.name, size: part.size, sample: [] });
    if (access.kind !== "granted") return how === "copy" ? "The copy cannot be opened." : "The phone cannot be read now.";
    return this.#readAs(id, { grant: access.grant }, { kind: how, name: part.name });
  }

  /** A working copy that was made here is gone over at once: nothing is left to be chosen. */
  async #workOnCopy(id: number): Promise<void> {
    const because = await this.readPart(id, "copy");
    if (because === null) await this.medium(id)?.start({ depth: "deep", ...EVERYTHING_THERE });
    else this.medium(id)?.say(because);
  }

  async #readAs(id: number, offered: Offered, own: Partial<SourceRef> = {}): Promise<string | null> {
    const looked = await lookAt(offered);
    if (!looked.ok) return looked.because;
    const sha256 = (await loadPart(id))?.sha256 ?? null;
    await database.media.update(id, { source: { ...looked.source, ...own }, sha256 });
    await database.places.put({ medium: id, ...looked.places });
    await this.#mediaChanged();
    await this.#media.get(id)?.open();
    this.#looking.forget();
    return null;
  }

  /** Puts a medium aside, or takes it up again: its finds are not shown meanwhile. */
  async setAside(id: number, aside: boolean): Promise<void> {
    if (aside) this.#media.get(id)?.pause();
    await database.media.update(id, { aside });
    await this.#mediaChanged();
  }

  /** People's data that were taken of the same phone before are put aside: nobody is to be shown twice. */
  async setOlderAside(id: number): Promise<void> {
    const { media } = this.store.getState();
    const serial = (await loadPart(id))?.serial;
    for (const { medium } of media) {
      if (medium.id === id || medium.kind !== "people" || medium.aside) continue;
      if ((await loadPart(medium.id))?.serial === serial) await this.setAside(medium.id, true);
    }
  }

  /** Takes a medium out of the ticket, with all that was found on it. */
  async removeMedium(id: number): Promise<void> {
    try {
      await removeMedia([id]);
    } catch (cause) {
      this.#media.get(id)?.say(`It could not be taken out of the ticket. ${whyUnkept(cause)}`);
      return;
    }
    await this.#mediaChanged();
    await this.#putTray([...this.store.getState().tray].filter((key) => partsOfKey(key).medium !== id));
  }

  async giveAgain(id: number, grant: Grant): Promise<void> {
    await this.#media.get(id)?.giveAgain(grant);
    this.#looking.forget();
  }

  async reopen(id: number): Promise<void> {
    await this.#media.get(id)?.reopen();
    this.#looking.forget();
  }

  async start(asked: Asked, steal = false): Promise<void> {
    await this.inHand?.start(asked, steal);
  }

  ask(change: Partial<Query>): Promise<void> {
    // Whoever asks for something by themselves is shown that, and not the first want.
    if (Object.keys(change).length > 0) this.takeFirstWant();
    return this.#looking.ask(change);
  }

  select(found: Found | null): void {
    this.store.setState({ selected: found });
  }

  /** What finds look like, read and sound like. */
  get looking(): Looking {
    return this.#looking;
  }

  /** Puts finds into the tray, or takes them out. */
  async choose(keys: readonly string[], into: boolean): Promise<void> {
    // What was written was chosen.
    if (this.store.getState().behind) return;
    const tray = new Set(this.store.getState().tray);
    for (const key of keys) {
      if (into) tray.add(key);
      else tray.delete(key);
    }
    await this.#putTray([...tray]);
  }

  async #putTray(tray: readonly string[]): Promise<void> {
    this.store.setState({ tray: new Set(tray) });
    // Counted when it is kept: what the tray says outlives the page.
    await this.#changes.keep({ tray: [...tray] });
    await this.#countTray();
  }

  async #countPeople(): Promise<void> {
    const counts = await (await this.desks.people).counts;
    this.store.setState(({ people }) => ({ people: { counts, generation: people.generation + 1 } }));
  }

  async #countTray(): Promise<void> {
    this.store.setState({ traySum: await this.desks.index.sumOf([...this.store.getState().tray]) });
  }

  async handOver(target: Target): Promise<void> {
    await this.#looking.lookAt("the ticket");
    const { tray } = this.store.getState();
    this.store.setState({ handOver: { ...NOTHING_WRITTEN, busy: true } });
    noteWork(`hand-over ${this.id}`, true);
    const hear = (news: HandOverNews) =>
      this.store.setState(({ handOver }) => ({
        handOver: { ...handOver, news, checked: news.checked ? [...handOver.checked, news.checked] : handOver.checked },
      }));
    const result = await this.desks.reading
      .handOver(this.id, [...tray], target, proxy(hear))
      .catch((cause: unknown) => ({ ok: false, because: `The hand-over broke off: ${whyNot(cause)}.` }) as const);
    noteWork(`hand-over ${this.id}`, false);
    this.store.setState(({ handOver }) => ({ handOver: { ...handOver, result, busy: false } }));
    if (!result.ok) return;
    const handedOver: HandOverRecord = { at: Date.now(), to: result.folder, equal: result.equal, files: result.files };
    await this.changeJob({ handedOver });
  }

  #hasOpened = false;
  /** The want that Finds opens on, told once: whoever went somewhere by themselves stays there. Null: there is none, or it was told. */
  takeFirstWant(): Want | null {
    const told = `jubar.opened.${this.id}`;
    if (this.#hasOpened || globalThis.sessionStorage?.getItem(told)) return null;
    this.#hasOpened = true;
    // A page that is loaded again stands where it stood.
    globalThis.sessionStorage?.setItem(told, "yes");
    return this.job?.intake.wants[0] ?? null;
  }

  /** Notes what somebody said of addresses: that each of `some` is of the same person as each of `others`, or of another one. */
  sayOfPeople(some: readonly string[], others: readonly string[], apart: boolean): Promise<void> {
    const said = some.flatMap((a) => others.map((b) => ({ a, b, apart })));
    const isSame = (one: HandJoin) => said.some(({ a, b }) => (a === one.a && b === one.b) || (a === one.b && b === one.a));
    const before = this.job?.joins ?? [];
    return this.changeJob({ joins: [...before.filter((one) => !isSame(one)), ...said].slice(-MOST_JOINS) });
  }

  /** Takes back all that was said by hand of any of these addresses. */
  unsayOfPeople(addresses: readonly string[]): Promise<void> {
    const isOf = ({ a, b }: HandJoin) => addresses.includes(a) || addresses.includes(b);
    return this.changeJob({ joins: (this.job?.joins ?? []).filter((one) => !isOf(one)) });
  }

  changeJob(change: Change): Promise<void> {
    return this.#changes.change(change);
  }

  /** An answer of the first talk: laid over what is known now, however fast the answers come. */
  changeIntake(change: Partial<Job["intake"]>): void {
    const { job } = this;
    if (job) void this.changeJob({ intake: { ...job.intake, ...change } });
  }

  changeFacts(change: Partial<Job["facts"]>): void {
    const { job } = this;
    if (job) void this.changeJob({ facts: { ...job.facts, ...change } });
  }

  close(): void {
    this.#line.close();
    for (const desk of this.#media.values()) desk.close();
  }
}
