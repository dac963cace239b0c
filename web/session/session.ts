import { proxy, type Remote, transfer, wrap } from "comlink";
import { createStore, type StoreApi } from "zustand/vanilla";
import type { Find } from "../../core/finds/find.ts";
import { EVERYTHING, type Query } from "../../core/finds/find-index.ts";
import { whyNot } from "../../core/handover/refusals.ts";
import type { Depth } from "../../core/scan/events.ts";
import { database } from "../kept/database.ts";
import type { HandOverRecord, Job } from "../kept/job.ts";
import { lacksRoom, NO_ROOM } from "../kept/no-room.ts";
import { forgetPending, notePending, settlePending } from "../kept/pending.ts";
import { onPhones } from "../phones/phones.ts";
import { noteWork } from "../shell/work-under-way.ts";
import type { AnswerView, Grant, HandOverNews, HandOverResult, JobWorker, News, Target, TraySum } from "../worker/protocol.ts";
import { followPhone } from "./follow-phone.ts";
import { lookAt, type Offered } from "./offered.ts";
import { askPassphrase } from "./passphrase.ts";
import { type Access, accessTo, askAgain } from "./storage-access.ts";

const EMPTY_TRAY: TraySum = { count: 0, bytes: 0, kinds: {}, damaged: 0 };

export interface SessionState {
  /** loading, then the job, or null where there is none. */
  readonly job: Job | null | "loading";
  readonly news: News | null;
  readonly storage: "opening" | "open" | "none" | Exclude<Access, { kind: "granted" }>;
  /** What went wrong when storage was opened or a scan was started. */
  readonly problem: string | null;
  /** Why the last change is shown but not kept, or null. */
  readonly unkept: string | null;
  readonly query: Query;
  readonly answer: AnswerView | null;
  /** The find that is looked at. */
  readonly selected: Find | null;
  readonly tray: ReadonlySet<string>;
  readonly traySum: TraySum;
  readonly handOver: {
    readonly news: HandOverNews | null;
    readonly checked: readonly NonNullable<HandOverNews["checked"]>[];
    readonly result: HandOverResult | null;
    readonly busy: boolean;
  };
}

const NOTHING_WRITTEN: SessionState["handOver"] = { news: null, checked: [], result: null, busy: false };

/** One job that is open: its worker, and what the screens show of it. Usable without React. */
export class Session {
  readonly id: number;
  readonly store: StoreApi<SessionState>;
  readonly desk: Remote<JobWorker>;
  readonly #previews = new Map<string, Promise<Preview | null>>();
  #asking = false;
  #askAgain = false;

  constructor(id: number) {
    this.id = id;
    this.desk = wrap<JobWorker>(new Worker(new URL("../worker/job.worker.ts", import.meta.url), { type: "module" }));
    this.store = createStore<SessionState>(() => ({
      job: "loading",
      news: null,
      storage: "opening",
      problem: null,
      unkept: null,
      query: EVERYTHING,
      answer: null,
      selected: null,
      tray: new Set<string>(),
      traySum: EMPTY_TRAY,
      handOver: NOTHING_WRITTEN,
    }));
    void this.#open();
    const lookAtPhone = followPhone(
      () => {
        const { job } = this.store.getState();
        return job === "loading" ? null : job;
      },
      (change) => void this.changeJob(change),
    );
    // Storage that is read off a phone opens by itself when the phone is back.
    onPhones(() => {
      const { storage } = this.store.getState();
      if (typeof storage === "object" && storage.kind === "needs phone") void this.reopen();
    });
    // A ticket that was just loaded, or was given its phone, looks at it at once.
    this.store.subscribe(lookAtPhone);
  }

  async #open(): Promise<void> {
    await settlePending(localStorage, this.id).catch(() => undefined);
    const job = await this.desk
      .open(
        this.id,
        proxy((news: News) => this.#heard(news)),
      )
      .catch((cause: unknown) => {
        this.store.setState({ problem: `This ticket cannot be opened: ${cause instanceof Error ? cause.message : String(cause)}` });
        return null;
      });
    this.store.setState({ job });
    if (!job) return;
    this.store.setState({ tray: new Set(job.tray) });
    await this.#countTray();
    await this.ask({});
    if (!job.source) {
      this.store.setState({ storage: "none" });
      return;
    }
    await this.#use(await accessTo(job.source));
    // A reload in the middle of a scan goes on by itself; what was paused or stopped stays so.
    if (job.scan.status === "running" && this.store.getState().storage === "open") await this.start(job.scan.depth);
  }

  #heard(news: News): void {
    const { job, answer } = this.store.getState();
    this.store.setState({ news });
    noteWork(`scan ${this.id}`, news.scan.status === "running");
    if (job && job !== "loading") this.store.setState({ job: { ...job, scan: news.scan } });
    if (answer && news.generation !== answer.generation) void this.ask({});
  }

  async #use(access: Access): Promise<void> {
    if (access.kind !== "granted") this.store.setState({ storage: access });
    else await this.#attach(access.grant);
  }

  async #attach(grant: Grant): Promise<void> {
    let outcome = await this.desk.attach(grant.kind === "port" ? transfer(grant, [grant.port]) : grant);
    // An encrypted backup whose unpacked archive the browser threw away.
    for (let tries = 0; !outcome.ok && outcome.passphrase && grant.kind === "file"; tries++) {
      const passphrase = await askPassphrase(grant.file.name, tries > 0);
      if (passphrase === null) break;
      outcome = await this.desk.attach({ ...grant, passphrase });
    }
    if (outcome.ok) {
      this.#previews.clear();
      this.store.setState({ storage: "open", problem: null });
    } else this.store.setState({ storage: { kind: "needs file", because: outcome.because }, problem: outcome.because });
  }

  /** The person clicked to open the stored handle again. */
  async reopen(): Promise<void> {
    const { storage, job } = this.store.getState();
    if (typeof storage !== "object") return;
    if (storage.kind === "needs click") await this.#use(await askAgain(storage.handle, storage.lacks));
    else if (storage.kind === "needs phone" && job && job !== "loading" && job.source) {
      const access = await accessTo(job.source);
      if (access.kind === "needs phone") return;
      await this.#use(access);
    }
    if (job && job !== "loading" && job.scan.status === "running" && this.store.getState().storage === "open")
      await this.start(job.scan.depth);
  }

  /** The person gave the file or folder again. */
  async giveAgain(grant: Grant): Promise<void> {
    await this.#attach(grant);
    const { storage, job } = this.store.getState();
    if (storage === "open" && job && job !== "loading" && job.scan.status === "running") await this.start(job.scan.depth);
  }

  /** The person put this ticket's storage on the bench. @returns why it cannot be worked on, or null */
  async giveStorage(offered: Offered): Promise<string | null> {
    const looked = await lookAt(offered);
    if (!looked.ok) return looked.because;
    await this.changeJob({ source: looked.source });
    await this.#attach(looked.grant);
    return null;
  }

  /** A phone's part was found or copied: it is this ticket's storage from now on. @returns why it cannot be worked on, or null */
  async takePhonePart(kind: "copy" | "phone", name: string, size: number): Promise<string | null> {
    const access = await accessTo({ kind, name, size, sample: "", job: this.id });
    if (access.kind !== "granted") return "The copy cannot be opened.";
    const looked = await lookAt({ grant: access.grant });
    if (!looked.ok) return looked.because;
    await this.changeJob({ source: { ...looked.source, kind, name, job: this.id } });
    // A port was used up by the look: another one is opened.
    await this.#use(await accessTo({ ...looked.source, kind, name, job: this.id }));
    return null;
  }

  async start(depth: Depth): Promise<void> {
    const outcome = await this.desk.start(depth);
    this.store.setState({ problem: outcome.ok ? null : outcome.because });
  }

  pause(): void {
    void this.desk.pause();
  }

  stop(): void {
    void this.desk.stop();
  }

  /** Changes filters and asks; answers that are overtaken by newer questions are not shown. */
  async ask(change: Partial<Query>): Promise<void> {
    const query = { ...this.store.getState().query, ...change };
    this.store.setState({ query });
    if (this.#asking) {
      this.#askAgain = true;
      return;
    }
    this.#asking = true;
    do {
      this.#askAgain = false;
      const answer = await this.desk.ask(this.store.getState().query);
      this.store.setState({ answer });
    } while (this.#askAgain);
    this.#asking = false;
  }

  select(find: Find | null): void {
    this.store.setState({ selected: find });
  }

  /** A picture of a find as an address that an image element can show, or a word in its place. */
  preview(id: string, side: number): Promise<Preview | null> {
    const key = `${id} ${side}`;
    const known = this.#previews.get(key);
    if (known) return known;
    const drawn = this.desk
      .preview(id, side)
      .then((answer): Preview | null => (answer && "picture" in answer ? { address: URL.createObjectURL(answer.picture) } : answer));
    this.#previews.set(key, drawn);
    if (this.#previews.size > MAX_PREVIEWS) {
      const [oldest, address] = [...this.#previews][0];
      this.#previews.delete(oldest);
      // Images that still show it have decoded it by now.
      void address.then((shown) => shown && "address" in shown && URL.revokeObjectURL(shown.address));
    }
    return drawn;
  }

  /** Puts finds into the tray, or takes them out. */
  async choose(ids: readonly string[], into: boolean): Promise<void> {
    const tray = new Set(this.store.getState().tray);
    for (const id of ids) {
      if (into) tray.add(id);
      else tray.delete(id);
    }
    this.store.setState({ tray });
    // Counted when it is kept: what the tray says outlives the page.
    await this.#keep({ tray: [...tray] });
    await this.#countTray();
  }

  async #countTray(): Promise<void> {
    this.store.setState({ traySum: await this.desk.sumOf([...this.store.getState().tray]) });
  }

  async handOver(target: Target): Promise<void> {
    const { tray } = this.store.getState();
    this.store.setState({ handOver: { ...NOTHING_WRITTEN, busy: true } });
    noteWork(`hand-over ${this.id}`, true);
    const result = await this.desk
      .handOver(
        [...tray],
        target,
        proxy((news: HandOverNews) =>
          this.store.setState(({ handOver }) => ({
            handOver: { ...handOver, news, checked: news.checked ? [...handOver.checked, news.checked] : handOver.checked },
          })),
        ),
      )
      .catch((cause: unknown) => ({ ok: false, because: `The hand-over broke off: ${whyNot(cause)}.` }) as const);
    noteWork(`hand-over ${this.id}`, false);
    this.store.setState(({ handOver }) => ({ handOver: { ...handOver, result, busy: false } }));
    if (!result.ok) return;
    const handedOver: HandOverRecord = { at: Date.now(), to: result.folder, equal: result.equal, files: result.files };
    await this.changeJob({ handedOver });
  }

  async changeJob(
    change: Partial<Pick<Job, "customer" | "device" | "intake" | "facts" | "source" | "handedOver" | "phone" | "ledger">>,
  ): Promise<void> {
    // Shown first: what is typed must not wait for the database.
    const { job } = this.store.getState();
    if (job && job !== "loading") this.store.setState({ job: { ...job, ...change } });
    notePending(localStorage, this.id, change);
    if (await this.#keep(change)) forgetPending(localStorage, this.id, change);
  }

  /** Writes into the browser's database. Where that takes nothing more it is said, and what was shown stays. @returns whether it was kept */
  async #keep(change: Partial<Omit<Job, "tray">> & { tray?: string[] }): Promise<boolean> {
    let unkept: string | null = null;
    await database.jobs.update(this.id, { ...change, touchedAt: Date.now() }).catch((cause: unknown) => {
      unkept = lacksRoom(cause) ? NO_ROOM : `This browser does not keep it: ${cause instanceof Error ? cause.message : String(cause)}`;
    });
    if (this.store.getState().unkept !== unkept) this.store.setState({ unkept });
    return unkept === null;
  }

  /** An answer of the first talk: laid over what is known now, however fast the answers come. */
  changeIntake(change: Partial<Job["intake"]>): void {
    const { job } = this.store.getState();
    if (job && job !== "loading") void this.changeJob({ intake: { ...job.intake, ...change } });
  }

  changeFacts(change: Partial<Job["facts"]>): void {
    const { job } = this.store.getState();
    if (job && job !== "loading") void this.changeJob({ facts: { ...job.facts, ...change } });
  }
}

/** What is shown of a find: its picture, or why there is none. */
export type Preview = { readonly address: string } | { readonly word: string };

/** Previews kept at hand. */
const MAX_PREVIEWS = 600;

const sessions = new Map<number, Session>();

/** The session of a job: one as long as the page lives, so that a scan goes on while other screens are looked at. */
export function sessionOf(id: number): Session {
  const known = sessions.get(id);
  if (known) return known;
  const session = new Session(id);
  sessions.set(id, session);
  return session;
}
