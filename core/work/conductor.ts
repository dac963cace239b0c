import { isUnderWay, type WorkState } from "./work-state.ts";

/** Work that goes on from step to step, and can be kept between any two. */
export interface Work<Step> {
  /** Begins, or goes on from what was taken last. Aborted: its reading ends soon, and nobody hears of it any more. */
  begin(signal: AbortSignal): AsyncGenerator<Step, void>;
  /** Takes a step into memory. */
  take(step: Step): void | Promise<void>;
  /** Keeps all that was taken since it was last kept, and the state, as one. Throws where nothing of it is kept: then all of it is still to be. */
  keep(state: WorkState, because: string | null): Promise<void>;
  /** What is said of an error, in plain words; "taken over": another one does this work now, and nothing more may be kept. */
  reason(cause: unknown): string | { readonly takenOver: string };
}

/** The time, as its owner has it: milliseconds, and a promise that is kept after so many of them. */
export interface Clock {
  now(): number;
  wait(milliseconds: number): Promise<void>;
}

/** Milliseconds that a step may still take after it was said to pause or stop; a later answer is dropped. */
const PATIENCE = 700;
/** Milliseconds after which what was taken is kept. */
const KEEP_EVERY = 1000;

type Wanted = "run" | "pause" | "stop";

/**
 * Leads one piece of work through its life. Commands may come at any time and in any order: the last one counts. There is one beginning in flight at
 * most. *Paused* and *stopped* are said when they are so: nothing is read any more, and all that was found is kept. Where it cannot be kept
 * the work is *held*, with the reason, and nothing is forgotten; told to go on, it first keeps what is still to be kept.
 */
export class Conductor<Step> {
  readonly #work: Work<Step>;
  readonly #clock: Clock;
  readonly #tell: (state: WorkState, because: string | null) => void;
  #state: WorkState;
  #because: string | null = null;
  #wanted: Wanted = "stop";
  #life: Promise<void> | null = null;
  /** What the life waits with for the next command, where it does. */
  #onCommand: () => void = () => {};
  #lastKept = 0;
  #isEnding = false;

  /** `state`: where it stood when it was kept last. */
  constructor(work: Work<Step>, clock: Clock, tell: (state: WorkState, because: string | null) => void, state: WorkState = "new") {
    this.#work = work;
    this.#clock = clock;
    this.#tell = tell;
    this.#state = state;
  }

  get state(): WorkState {
    return this.#state;
  }
  get because(): string | null {
    return this.#because;
  }
  /** Is anything of it under way, or waiting to go on? */
  get isAlive(): boolean {
    return this.#life !== null;
  }

  /** Kept when nothing is under way any more. */
  get over(): Promise<void> {
    return this.#life ?? Promise.resolve();
  }

  /** Begins, or goes on. */
  start(): void {
    if (this.#isEnding) return;
    this.#want("run");
    this.#life ??= this.#live().finally(() => {
      this.#life = null;
    });
  }

  pause(): void {
    if (this.#life) this.#want("pause");
  }

  stop(): void {
    if (this.#life) this.#want("stop");
  }

  /** Ends it for good, whatever it does. Kept when nothing is under way any more. */
  async end(): Promise<void> {
    this.#isEnding = true;
    this.stop();
    await this.#life;
  }

  #want(wanted: Wanted): void {
    this.#wanted = wanted;
    if (isUnderWay(this.#state) && wanted !== "run") this.#say(wanted === "pause" ? "pausing" : "stopping");
    else if (this.#state === "pausing" || this.#state === "stopping") this.#say("running");
    this.#onCommand();
  }

  #command(): Promise<void> {
    return new Promise((wake) => {
      this.#onCommand = wake;
    });
  }

  #say(state: WorkState, because: string | null = null): void {
    if (this.#state === state && this.#because === because) return;
    this.#state = state;
    this.#because = because;
    this.#tell(state, because);
  }

  /** Lives until it is done, has failed, or is stopped and not wanted again meanwhile. */
  async #live(): Promise<void> {
    do this.#say("starting");
    while ((await this.#run()) === "again");
  }

  /** One run of the steps: to their end, to a failure, or to where it is said to stop. */
  async #run(): Promise<"again" | "over"> {
    const abort = new AbortController();
    const steps = this.#work.begin(abort.signal);
    try {
      for (;;) {
        if (this.#wanted !== "run" || this.#state !== "running") {
          if (!(await this.#keep(null)) || this.#isEnding) return "over";
          if (this.#state === "stopped") return this.#wanted === "run" ? "again" : "over";
          while (this.#state === "paused" && this.#wanted === "pause") await this.#command();
          if (abort.signal.aborted && this.#wanted === "run") return "again";
          continue;
        }
        const step = await this.#stepOf(steps.next());
        if (step === "late") {
          // What it may still bring is nobody's: the next run goes on from what was taken.
          abort.abort();
          continue;
        }
        if (step.done) {
          await this.#keep("done");
          return "over";
        }
        await this.#work.take(step.value);
        if (this.#clock.now() - this.#lastKept >= KEEP_EVERY && !(await this.#keep(null))) return "over";
      }
    } catch (cause) {
      await this.#keep("failed", cause);
      return "over";
    } finally {
      abort.abort();
      // Lets go of what it holds; one that hangs in a reading does so when that ends.
      steps.return().catch(() => undefined);
    }
  }

  /** The next step; "late" where one was told to rest meanwhile and it does not come. */
  async #stepOf(pulled: Promise<IteratorResult<Step, void>>): Promise<IteratorResult<Step, void> | "late"> {
    // Whoever does not wait for it any more is not told of its failure either.
    pulled.catch(() => undefined);
    for (;;) {
      const first = await new Promise<IteratorResult<Step, void> | null>((resolve, reject) => {
        this.#onCommand = () => resolve(null);
        pulled.then(resolve, reject);
      });
      if (first) return first;
      if (this.#wanted !== "run") return Promise.race([pulled, this.#clock.wait(PATIENCE).then(() => "late" as const)]);
    }
  }

  /** Keeps what was taken, and says the state that was kept. Held until that works. @returns false where it is over: another one does this work */
  async #keep(end: "done" | "failed" | null, cause?: unknown): Promise<boolean> {
    const why = end === "failed" ? this.#work.reason(cause) : null;
    if (why !== null && typeof why !== "string") return this.#giveUp(why.takenOver);
    for (;;) {
      const state = end ?? ({ run: "running", pause: "paused", stop: "stopped" } as const)[this.#wanted];
      try {
        await this.#work.keep(state, why);
        this.#lastKept = this.#clock.now();
        // A command that came meanwhile is obeyed next; what is said is what is kept.
        if (state !== "running" || this.#wanted === "run") this.#say(state, why);
        else this.#say(this.#wanted === "pause" ? "pausing" : "stopping");
        return true;
      } catch (failure) {
        const because = this.#work.reason(failure);
        if (typeof because !== "string") return this.#giveUp(because.takenOver);
        if (this.#isEnding) return false;
        const command = this.#command();
        this.#say("held", because);
        await command;
      }
    }
  }

  #giveUp(because: string): false {
    this.#wanted = "stop";
    this.#say("stopped", because);
    return false;
  }
}
