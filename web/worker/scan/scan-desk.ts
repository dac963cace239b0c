import { PassphraseNeeded } from "../../../core/backup/unpack.ts";
import { type Asked, isSameAsked } from "../../../core/scan/checkpoint.ts";
import type { ScanEvent } from "../../../core/scan/events.ts";
import { Conductor } from "../../../core/work/conductor.ts";
import { Turns } from "../../../core/work/turns.ts";
import { loadMedium } from "../../kept/database.ts";
import { askedOf } from "../../kept/kept-scan.ts";
import { Line, type News } from "../../kept/news.ts";
import { lacksRoom, NO_ROOM } from "../../kept/no-room.ts";
import { Ownership } from "../../kept/ownership.ts";
import { clock } from "../clock.ts";
import type { Grant, Outcome } from "../storage/grant.ts";
import { openGrant } from "../storage/open-grant.ts";
import { PlaceLink } from "../storage/place-link.ts";
import { ScanKeeper } from "./scan-keeper.ts";
import { ScanWork } from "./scan-work.ts";

/** `elsewhere`: another tab scans this medium now. */
export type Started = Outcome & { readonly elsewhere?: true };

/** A scan that is under way or rests, with all that it holds. */
interface Scanning {
  readonly conductor: Conductor<ScanEvent>;
  readonly work: ScanWork;
  readonly ownership: Ownership;
  readonly link: PlaceLink;
}

/** Scans one medium. Commands are obeyed one after the other; what comes of them is told to all tabs. */
export class ScanDesk {
  readonly #medium: number;
  readonly #line: Line;
  #scanning: Scanning | null = null;
  readonly #turns = new Turns();

  constructor(medium: number) {
    this.#medium = medium;
    this.#line = new Line((notice) => {
      if (notice.type === "end" && notice.media.includes(medium)) void this.end();
    });
  }

  /** Begins, goes on, or, where it rests, wakes it. `steal`: takes it from the tab that has it. */
  start(grant: Grant, asked: Asked, steal = false): Promise<Started> {
    return this.#turns.take(() => this.#start(grant, asked, steal));
  }

  async #start(grant: Grant, asked: Asked, steal: boolean): Promise<Started> {
    const resting = this.#scanning;
    if (resting?.conductor.isAlive && isSameAsked(askedOf(resting.work.record), asked)) {
      resting.conductor.start();
      return { ok: true };
    }
    await this.#letGo();
    const ownership = await Ownership.take(this.#medium, steal).catch((cause: unknown) =>
      lacksRoom(cause) ? NO_ROOM : String(cause instanceof Error ? cause.message : cause),
    );
    if (ownership === null) return { ok: false, elsewhere: true, because: "Another tab scans this medium now." };
    if (typeof ownership === "string") return { ok: false, because: ownership };
    try {
      this.#scanning = await this.#open(grant, ownership);
    } catch (cause) {
      ownership.letGo();
      return { ok: false, because: cause instanceof Error ? cause.message : String(cause), passphrase: cause instanceof PassphraseNeeded };
    }
    const { conductor, work } = this.#scanning;
    work.goOver(asked);
    conductor.start();
    // What is over is nobody's: another tab may go on with it.
    void conductor.over.then(() => this.#rest());
    return { ok: true };
  }

  async #open(grant: Grant, ownership: Ownership): Promise<Scanning> {
    const medium = await loadMedium(this.#medium);
    if (!medium) throw new Error("This medium was removed from its ticket.");
    const source = await openGrant(grant);
    const link = await PlaceLink.open(medium.id);
    const keeper = new ScanKeeper(medium.job, ownership, this.#line);
    const tell = (news: Omit<News, "owner">) =>
      this.#line.say({ type: "news", job: medium.job, medium: medium.id, news: { ...news, owner: ownership.number } });
    const work = new ScanWork({ medium, source, ledger: link.ledger, keeper, now: clock.now, tell });
    const conductor = new Conductor(work, clock, (state, because) => work.said(state, because), medium.scan.status);
    return { conductor, work, ownership, link };
  }

  /** Lets go of what is not under way any more. */
  #rest(): Promise<void> {
    return this.#turns.take(async () => {
      if (this.#scanning && !this.#scanning.conductor.isAlive) await this.#letGo();
    });
  }

  async #letGo(): Promise<void> {
    const scanning = this.#scanning;
    this.#scanning = null;
    if (!scanning) return;
    await scanning.conductor.end();
    await scanning.link.settle();
    scanning.link.close();
    scanning.ownership.letGo();
  }

  pause(): void {
    this.#scanning?.conductor.pause();
  }

  stop(): void {
    this.#scanning?.conductor.stop();
  }

  /** Ends whatever is under way. */
  end(): Promise<void> {
    return this.#turns.take(() => this.#letGo());
  }
}
