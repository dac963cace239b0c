import { type Remote, wrap } from "comlink";
import { Turns } from "../../../core/work/turns.ts";

/** A worker and what it offers. */
export interface Started<T> {
  readonly desk: Remote<T>;
  end(): void;
}

/** What was begun took longer than it may. */
export class TooLong extends Error {
  constructor() {
    super("it takes too long: it was given up");
  }
}

/** Errors after which a worker may be no good any more: compiled code that broke off, memory that there is no more of. They come by their names only. */
const SPENT = new Set(["RuntimeError", "RangeError"]);
const isSpent = (cause: unknown): boolean => cause instanceof Error && SPENT.has(cause.name);

/** Starts a worker of that file. */
export const started = <T>(make: () => Worker): Started<T> => {
  const worker = make();
  return { desk: wrap<T>(worker), end: () => worker.terminate() };
};

/**
 * A worker for what may be made to harm: one task at a time, and when one takes longer than it may, or breaks it, the worker is ended with all that it holds.
 * The next task gets a new one, so that a bad file never hurts the next. It is ended too after so many tasks, since decoders keep memory.
 */
export class BoundWorker<T> {
  readonly #start: () => Started<T>;
  readonly #turns = new Turns();
  readonly #mostMs: number;
  readonly #mostTasks: number;
  #now: Started<T> | null = null;
  #tasks = 0;

  constructor(start: () => Started<T>, { mostMs = 20_000, mostTasks = 200 }: { mostMs?: number; mostTasks?: number } = {}) {
    this.#start = start;
    this.#mostMs = mostMs;
    this.#mostTasks = mostTasks;
  }

  /** Runs a task when its turn comes. @throws TooLong, or what the task throws */
  run<R>(task: (desk: Remote<T>) => Promise<R>): Promise<R> {
    return this.#turns.take(async () => {
      this.#now ??= this.#start();
      this.#tasks++;
      let alarm: ReturnType<typeof setTimeout> | undefined;
      const tooLong = new Promise<never>((_, fail) => {
        alarm = setTimeout(() => fail(new TooLong()), this.#mostMs);
      });
      try {
        return await Promise.race([task(this.#now.desk), tooLong]);
      } catch (cause) {
        if (cause instanceof TooLong || isSpent(cause)) this.end();
        throw cause;
      } finally {
        clearTimeout(alarm);
        if (this.#tasks >= this.#mostTasks) this.end();
      }
    });
  }

  end(): void {
    this.#now?.end();
    this.#now = null;
    this.#tasks = 0;
  }
}
