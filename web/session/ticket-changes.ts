import type { StoreApi } from "zustand";
import { database } from "../kept/database.ts";
import type { Job } from "../kept/job.ts";
import type { Line } from "../kept/news.ts";
import { whyUnkept } from "../kept/no-room.ts";
import { forgetPending, notePending } from "../kept/pending.ts";
import type { SessionState } from "./session-state.ts";

/** Changes of a ticket that screens make. */
export type Change = Partial<Pick<Job, "customer" | "device" | "intake" | "facts" | "handedOver" | "phone" | "ledger" | "joins">>;

/** Shows, keeps and tells what is changed of a ticket itself. */
export class TicketChanges {
  readonly #job: number;
  readonly #store: StoreApi<SessionState>;
  readonly #line: Line;
  /** What other tabs know this one's changes by. */
  readonly name = Math.random().toString(36).slice(2);

  constructor(job: number, store: StoreApi<SessionState>, line: Line) {
    this.#job = job;
    this.#store = store;
    this.#line = line;
  }

  async change(change: Change): Promise<void> {
    // Shown first: what is typed must not wait for the database.
    const { job } = this.#store.getState();
    if (job && job !== "loading") this.#store.setState({ job: { ...job, ...change } });
    notePending(localStorage, this.#job, change);
    if (await this.keep(change)) forgetPending(localStorage, this.#job, change);
  }

  /** Writes into the browser's database. Where that takes nothing more it is said, and what was shown stays. @returns whether it was kept */
  async keep(change: Partial<Omit<Job, "tray">> & { tray?: string[] }): Promise<boolean> {
    let unkept: string | null = null;
    await database.jobs.update(this.#job, { ...change, touchedAt: Date.now() }).catch((cause: unknown) => {
      unkept = whyUnkept(cause);
    });
    if (this.#store.getState().unkept !== unkept) this.#store.setState({ unkept });
    if (unkept === null) this.#line.say({ type: "ticket", job: this.#job, by: this.name });
    return unkept === null;
  }
}
