import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { BoundWorker, type Started, TooLong } from "./bound-worker.ts";

/** A worker that counts what is asked of it and may never answer. */
interface Decoder {
  answer(number: number): Promise<number>;
}

function watched() {
  const life = { begun: 0, ended: 0, under: 0, most: 0 };
  const start = (): Started<Decoder> => {
    life.begun++;
    const desk = {
      answer: async (number: number) => {
        life.most = Math.max(life.most, ++life.under);
        await new Promise<void>((done) => number >= 0 && setTimeout(done, 10));
        life.under--;
        return number;
      },
    };
    return { desk: desk as unknown as Started<Decoder>["desk"], end: () => life.ended++ };
  };
  return { life, start };
}

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

test("one task at a time, in the order they are asked for, by one worker that is started when it is first needed", async () => {
  const { life, start } = watched();
  const worker = new BoundWorker(start);
  expect(life.begun).toBe(0);
  const order: number[] = [];
  const all = [1, 2, 3].map((number) => worker.run((desk) => desk.answer(number)).then((said) => order.push(said)));
  await vi.runAllTimersAsync();
  await Promise.all(all);
  expect(order).toEqual([1, 2, 3]);
  expect(life).toMatchObject({ begun: 1, ended: 0, most: 1 });
});

test("a task that takes too long ends its worker and itself; the next one gets a new worker", async () => {
  const { life, start } = watched();
  const worker = new BoundWorker(start, { mostMs: 500 });
  const endless = worker.run((desk) => desk.answer(-1)).catch((cause: unknown) => cause);
  const next = worker.run((desk) => desk.answer(7));
  await vi.advanceTimersByTimeAsync(499);
  expect(life.ended).toBe(0);
  await vi.advanceTimersByTimeAsync(1000);
  expect(await endless).toBeInstanceOf(TooLong);
  expect(await next).toBe(7);
  expect(life).toMatchObject({ begun: 2, ended: 1 });
});

test("a task that fails keeps the worker; after so many tasks it is a new one", async () => {
  const { life, start } = watched();
  const worker = new BoundWorker(start, { mostTasks: 3 });
  const failed = worker
    .run(async () => {
      throw new Error("no picture in it");
    })
    .catch((cause: Error) => cause.message);
  await vi.runAllTimersAsync();
  expect(await failed).toBe("no picture in it");
  for (let number = 0; number < 5; number++) {
    const answer = worker.run((desk) => desk.answer(number));
    await vi.runAllTimersAsync();
    expect(await answer).toBe(number);
  }
  expect(life).toMatchObject({ begun: 2, ended: 2 });
});

test.each(["RangeError", "RuntimeError"])(
  "a task that breaks compiled code (%s) ends its worker: the next one gets a new one",
  async (name) => {
    const { life, start } = watched();
    const worker = new BoundWorker(start);
    const broken = worker
      .run(async () => {
        // As it comes over from a worker: an error with a name, of no class that is known here.
        throw Object.assign(new Error("it wants more memory than it may have"), { name });
      })
      .catch((cause: Error) => cause.message);
    await vi.runAllTimersAsync();
    expect(await broken).toMatch(/more memory/);
    const next = worker.run((desk) => desk.answer(5));
    await vi.runAllTimersAsync();
    expect(await next).toBe(5);
    expect(life).toMatchObject({ begun: 2, ended: 1 });
  },
);
