import { expect, test } from "vitest";
import { type Clock, Conductor, type Work } from "./conductor.ts";
import type { WorkState } from "./work-state.ts";

/** A clock that stands until it is told to go on. */
class HandClock implements Clock {
  #now = 0;
  #waiting: { until: number; wake: () => void }[] = [];
  now = () => this.#now;
  wait = (milliseconds: number) =>
    new Promise<void>((wake) => {
      this.#waiting.push({ until: this.#now + milliseconds, wake });
    });
  advance(milliseconds: number): void {
    this.#now += milliseconds;
    for (const { until, wake } of this.#waiting.splice(0)) if (until <= this.#now) wake();
  }
  async goOn(milliseconds: number): Promise<void> {
    await settled();
    this.advance(milliseconds);
    await settled();
  }
}
const settled = () => new Promise<void>((done) => setTimeout(done, 0));

/** Work of so many numbered steps, each of which is handed out by hand, or at once. */
class Counting implements Work<number> {
  readonly total: number;
  taken: number[] = [];
  /** What a crash would leave. */
  kept: { steps: number[]; state: WorkState; because: string | null } = { steps: [], state: "new", because: null };
  begun = 0;
  alive = 0;
  mostAlive = 0;
  /** Where set, each step waits for it. */
  gate: ((step: number) => Promise<void>) | null = null;
  refuse: ((state: WorkState) => unknown) | null = null;

  constructor(total: number) {
    this.total = total;
  }
  async *begin(signal: AbortSignal): AsyncGenerator<number, void> {
    this.begun++;
    this.mostAlive = Math.max(this.mostAlive, ++this.alive);
    try {
      for (let step = this.taken.length; step < this.total; step++) {
        await this.gate?.(step);
        signal.throwIfAborted();
        yield step;
      }
    } finally {
      this.alive--;
    }
  }
  take(step: number): void {
    this.taken.push(step);
  }
  async keep(state: WorkState, because: string | null): Promise<void> {
    const refused = this.refuse?.(state);
    if (refused) throw refused;
    this.kept = { steps: [...this.taken], state, because };
  }
  reason(cause: unknown) {
    if (cause instanceof RangeError) return { takenOver: "Another tab works on it." };
    return cause instanceof Error ? cause.message : String(cause);
  }
}

function conducted(total: number) {
  const work = new Counting(total);
  const clock = new HandClock();
  const said: string[] = [];
  const conductor = new Conductor(work, clock, (state, because) => said.push(because ? `${state}: ${because}` : state));
  return { work, clock, said, conductor };
}
/** Makes the work hang in one step. @returns what lets it go on */
function hangingAt(work: Counting, hanging: number): () => void {
  let open: () => void = () => {};
  const gate = new Promise<void>((go) => {
    open = go;
  });
  work.gate = (step) => (step === hanging ? gate : Promise.resolve());
  return () => open();
}
const everything = (total: number) => Array.from({ length: total }, (_, step) => step);

test("from its beginning to its end, each state is said once, and all is kept", async () => {
  const { work, said, conductor } = conducted(7);
  conductor.start();
  await settled();
  expect(said).toEqual(["starting", "running", "done"]);
  expect(work.kept).toEqual({ steps: everything(7), state: "done", because: null });
});

test("two beginnings at once are one", async () => {
  const { work, conductor } = conducted(50);
  conductor.start();
  conductor.start();
  await Promise.resolve();
  conductor.start();
  await settled();
  expect(work).toMatchObject({ begun: 1, mostAlive: 1, taken: everything(50) });
});

test("pause is said when nothing is read any more and all is kept; go on goes on in the same run", async () => {
  const { work, said, conductor } = conducted(20);
  const open = hangingAt(work, 5);
  conductor.start();
  await settled();
  conductor.pause();
  expect(said.at(-1)).toBe("pausing");
  await settled();
  expect(conductor.state).toBe("pausing");
  open();
  await settled();
  expect(said.at(-1)).toBe("paused");
  expect(work.kept).toEqual({ steps: everything(6), state: "paused", because: null });
  conductor.start();
  await settled();
  expect(work).toMatchObject({ begun: 1, kept: { steps: everything(20), state: "done" } });
});

test.each(["pause", "stop"] as const)(
  "%s while the reader hangs: said within a second, and its late answer is dropped",
  async (command) => {
    const { work, clock, conductor } = conducted(20);
    const open = hangingAt(work, 5);
    conductor.start();
    await settled();
    conductor[command]();
    await clock.goOn(999);
    expect(conductor.state).toBe(command === "pause" ? "paused" : "stopped");
    expect(work.kept).toMatchObject({ steps: everything(5), state: conductor.state });
    work.gate = null;
    open();
    await settled();
    expect(work.taken).toEqual(everything(5));
    conductor.start();
    await settled();
    expect(work).toMatchObject({ begun: 2, alive: 0, kept: { steps: everything(20), state: "done" } });
  },
);

test("pause and go on at once, stop and start at once: it runs; start and stop at once: it is stopped", async () => {
  for (const [commands, end] of [
    [["start", "pause", "start"], "done"],
    [["start", "stop", "start"], "done"],
    [["start", "pause", "stop", "start"], "done"],
    [["start", "stop"], "stopped"],
    [["start", "pause", "stop"], "stopped"],
    [["start", "stop", "start", "pause"], "paused"],
  ] as const) {
    const { work, clock, conductor } = conducted(30);
    for (const command of commands) conductor[command]();
    await clock.goOn(999);
    expect(conductor.state, commands.join()).toBe(end);
    expect(work.kept.state).toBe(end);
    conductor.start();
    await settled();
    expect(work.kept, commands.join()).toMatchObject({ steps: everything(30), state: "done" });
    expect(work.mostAlive).toBe(1);
  }
});

test("commands at any moment, in any order: whatever was said last is what comes, and no step is lost or taken twice", async () => {
  for (let seed = 1; seed <= 300; seed++) {
    const { work, conductor } = conducted(12);
    let state = seed;
    const random = () => (state = (state * 48_271) % 2_147_483_647) / 2_147_483_647;
    work.gate = async () => {
      for (let turns = random() * 6; turns > 0; turns--) await Promise.resolve();
    };
    let last = "start";
    conductor.start();
    for (let commands = 0; commands < 12; commands++) {
      for (let turns = random() * 9; turns > 0; turns--) await Promise.resolve();
      last = (["start", "pause", "stop"] as const)[Math.floor(random() * 3)];
      if (conductor.state === "done") break;
      conductor[last as "start"]();
    }
    await settled();
    const expected = { start: "done", pause: "paused", stop: "stopped" }[last];
    // A pause of what is stopped already is none.
    if (conductor.state !== "done") expect([expected, "stopped"], `seed ${seed}`).toContain(conductor.state);
    conductor.start();
    await settled();
    expect(work.taken, `seed ${seed}`).toEqual(everything(12));
    expect(work.mostAlive).toBe(1);
  }
});

test("what is not kept holds it, says why, forgets nothing, and goes on when told", async () => {
  const { work, clock, said, conductor } = conducted(40);
  work.gate = async (step) => {
    if (step === 10) clock.advance(1500);
  };
  let refusals = 2;
  work.refuse = () => (work.taken.length > 0 && refusals-- > 0 ? new Error("There is no room left.") : null);
  conductor.start();
  await settled();
  expect(said).toEqual(["starting", "running", "held: There is no room left."]);
  const { length } = work.taken;
  await settled();
  expect(work.taken.length).toBe(length);
  expect(work.kept.steps).toEqual([]);
  // Still none.
  conductor.start();
  await settled();
  expect(conductor).toMatchObject({ state: "held", because: "There is no room left." });
  conductor.start();
  await settled();
  expect(said.slice(-3)).toEqual(["held: There is no room left.", "running", "done"]);
  expect(work).toMatchObject({ begun: 1, kept: { steps: everything(40), state: "done" } });
});

test("the last keeping of all fails: held, not done; and stopped from there it is stopped", async () => {
  const { work, said, conductor } = conducted(4);
  work.refuse = (state) => (state === "done" ? new Error("no room") : null);
  conductor.start();
  await settled();
  expect(conductor.state).toBe("held");
  work.refuse = null;
  conductor.stop();
  await settled();
  expect(said.at(-1)).toBe("done");
  expect(work.kept).toEqual({ steps: everything(4), state: "done", because: null });
});

test("a medium that goes away fails it, with what was found kept; started again it goes on from there", async () => {
  const { work, said, conductor } = conducted(9);
  work.gate = (step) => (step === 6 ? Promise.reject(new Error("It does not answer any more.")) : Promise.resolve());
  conductor.start();
  await settled();
  expect(said.at(-1)).toBe("failed: It does not answer any more.");
  expect(work.kept).toEqual({ steps: everything(6), state: "failed", because: "It does not answer any more." });
  work.gate = null;
  conductor.start();
  await settled();
  expect(said.slice(-3)).toEqual(["starting", "running", "done"]);
  expect(work).toMatchObject({ begun: 2, kept: { steps: everything(9), state: "done", because: null } });
});

test("taken over by another tab it ends at once, and keeps nothing more", async () => {
  const { work, clock, said, conductor } = conducted(40);
  let times = 0;
  work.gate = async (step) => {
    if (step % 10 === 9) clock.advance(1500);
  };
  work.refuse = () => (++times > 2 ? new RangeError("not mine") : null);
  conductor.start();
  await settled();
  expect(said.at(-1)).toBe("stopped: Another tab works on it.");
  const { length } = work.kept.steps;
  await clock.goOn(5000);
  expect(work.kept.steps.length).toBe(length);
  expect(work.alive).toBe(0);
});

test("ended for good while it runs, rests, hangs or is held: nothing is under way afterwards, and nothing begins", async () => {
  for (const make of [
    () => conducted(30),
    () => {
      const held = conducted(30);
      held.work.refuse = () => new Error("no room");
      return held;
    },
    () => {
      const hanging = conducted(30);
      hanging.work.gate = (step) => (step === 3 ? new Promise(() => {}) : Promise.resolve());
      return hanging;
    },
  ]) {
    const { conductor, clock } = make();
    conductor.start();
    await settled();
    const ending = conductor.end();
    await clock.goOn(1000);
    await ending;
    expect(conductor.isAlive).toBe(false);
    conductor.start();
    await settled();
    expect(conductor.isAlive).toBe(false);
  }
});
