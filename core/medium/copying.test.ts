import { expect, test } from "vitest";
import { noise } from "../../test/pictures.ts";
import { hashOf } from "../../test/scanning.ts";
import { faultySource } from "../bytes/faulty-source.ts";
import { portableSha256 } from "../bytes/hash.ts";
import { memorySource } from "../bytes/memory-source.ts";
import { type ByteSource, UnusableError } from "../bytes/source.ts";
import { Conductor } from "../work/conductor.ts";
import { type CopyKept, type CopyTools, CopyWork, type OpenTarget } from "./copying.ts";
import { COPY_BEGIN } from "./working-copy.ts";

const MIB = 1024 * 1024;
const bytes = noise(19 * MIB + 77);
/** A second passes between any two looks at the clock: every step is kept. */
let ticks = 0;
/** Milliseconds that were waited for by this clock. */
let waited = 0;
const clock = {
  now: () => (ticks += 1000),
  wait: (milliseconds: number) => {
    waited += milliseconds;
    return new Promise<void>((done) => setTimeout(done, milliseconds));
  },
};

/** A file that takes what is written at once, or only when it is closed, as browsers have both. */
class File {
  lasting = new Uint8Array(bytes.length);
  #written = new Uint8Array(bytes.length);
  readonly #takesAtOnce: boolean;
  opened = 0;
  full = false;

  constructor(takesAtOnce: boolean) {
    this.#takesAtOnce = takesAtOnce;
  }
  open(): OpenTarget {
    this.opened++;
    this.#written = this.lasting.slice();
    const settle = () => {
      this.lasting = this.#written.slice();
    };
    return {
      write: async (at, piece) => {
        if (this.full) throw new UnusableError("The browser's storage is full.");
        this.#written.set(piece, at);
      },
      read: async (at, length) => this.#written.slice(at, at + length),
      settle: async (isResting) => {
        if (this.#takesAtOnce || isResting) settle();
        return this.#takesAtOnce || isResting;
      },
      close: async () => settle(),
    };
  }
}

/** One life of a copy, from what an earlier one kept. */
async function copying(file: File, source: ByteSource, from: CopyKept | null, more: Partial<CopyTools> = {}) {
  const kept: CopyKept[] = from ? [from] : [];
  const work = new CopyWork({
    source,
    mark: from?.mark ?? COPY_BEGIN,
    sha256: await portableSha256(),
    openTarget: async () => file.open(),
    keep: async (one) => {
      // What a mark promises is there, whenever it is kept.
      const { done, unreadable } = one.mark;
      const wanted = bytes.slice(0, done);
      for (const { offset, length } of unreadable) wanted.fill(0, offset, offset + length);
      expect(Buffer.from(file.lasting.subarray(0, done)).equals(wanted)).toBe(true);
      kept.push(structuredClone(one));
    },
    takenOver: () => null,
    whyNot: String,
    ...more,
  });
  const said: string[] = [];
  const conductor: Conductor<unknown> = new Conductor(work, clock, (state, because) => said.push(because ? `${state}: ${because}` : state));
  return { conductor, kept, said, last: () => kept[kept.length - 1] };
}
/** A source that is asked by hand from some reading on. */
function gated(after: number) {
  let reads = 0;
  let open: () => void = () => {};
  let shut: () => void = () => {};
  const isShut = new Promise<void>((reached) => {
    shut = reached;
  });
  const gate = new Promise<void>((go) => {
    open = go;
  });
  const inner = memorySource(bytes, "card");
  const source: ByteSource = {
    ...inner,
    read: async (offset, length) => {
      if (++reads > after) {
        shut();
        await gate;
      }
      return inner.read(offset, length);
    },
  };
  /** The reading stands before the gate, and what was read before it has been written. */
  const standsBefore = () => isShut.then(() => new Promise<void>((later) => setTimeout(later, 60)));
  return { source, open: () => open(), standsBefore };
}

test.each([
  ["takes what is written at once", true],
  ["takes it only when it is closed", false],
])("into a place that %s: whole, hashed, and every mark that was kept is true", async (_, atOnce) => {
  const file = new File(atOnce);
  const { conductor, kept, said, last } = await copying(file, memorySource(bytes, "card"), null);
  conductor.start();
  await conductor.over;
  expect(said).toEqual(["starting", "running", "done"]);
  expect(last()).toMatchObject({ status: "done", mark: { done: bytes.length, unreadable: [] }, sha256: hashOf(bytes) });
  expect(Buffer.from(file.lasting).equals(bytes)).toBe(true);
  for (const { mark } of kept) expect(mark.done).toBeLessThanOrEqual(bytes.length);
});

test.each([
  ["pause", "paused", true],
  ["stop", "stopped", true],
  ["pause", "paused", false],
  ["stop", "stopped", false],
] as const)(
  "%s while the phone does not answer: said in time, what is kept is there, and it goes on to the same hash",
  async (command, state, atOnce) => {
    const file = new File(atOnce);
    const { source, open, standsBefore } = gated(2);
    const first = await copying(file, source, null);
    first.conductor.start();
    await standsBefore();
    const before = waited;
    first.conductor[command]();
    await expect.poll(() => first.conductor.state, { interval: 5 }).toBe(state);
    expect(waited - before).toBeLessThan(1000);
    const { mark } = first.last();
    expect(mark.done).toBe(8 * MIB);
    expect(Buffer.from(file.lasting.subarray(0, mark.done)).equals(bytes.subarray(0, mark.done))).toBe(true);
    // The late answer changes nothing any more.
    open();
    await new Promise((later) => setTimeout(later, 30));
    expect(first.last().mark.done).toBe(8 * MIB);
    if (command === "pause") {
      first.conductor.start();
      await first.conductor.over;
      expect(first.last()).toMatchObject({ status: "done", sha256: hashOf(bytes) });
    } else {
      const second = await copying(file, memorySource(bytes, "card"), first.last());
      second.conductor.start();
      await second.conductor.over;
      expect(second.last()).toMatchObject({ status: "done", sha256: hashOf(bytes) });
    }
    expect(Buffer.from(file.lasting).equals(bytes)).toBe(true);
  },
);

test("a full disk breaks it off, with what was copied kept; with room it goes on", async () => {
  const file = new File(true);
  const { source, open, standsBefore } = gated(2);
  const { conductor, last } = await copying(file, source, null);
  conductor.start();
  await standsBefore();
  file.full = true;
  open();
  await conductor.over;
  expect(last()).toMatchObject({ status: "failed", because: "The browser's storage is full.", mark: { done: 8 * MIB } });
  file.full = false;
  conductor.start();
  await conductor.over;
  expect(last()).toMatchObject({ status: "done", sha256: hashOf(bytes) });
});

test("a mark that cannot be kept holds it; what another one took over ends it", async () => {
  const file = new File(true);
  let fails: unknown = new Error("no room");
  const kept: CopyKept[] = [];
  const keep = async (one: CopyKept) => {
    if (fails) throw fails;
    kept.push(one);
  };
  const { conductor, said } = await copying(file, memorySource(bytes, "card"), null, {
    keep,
    whyNot: () => "There is no room left.",
    takenOver: (cause) => (cause instanceof RangeError ? "Another tab copies this now." : null),
  });
  conductor.start();
  await expect.poll(() => conductor.state).toBe("held");
  expect(conductor.because).toBe("There is no room left.");
  fails = new RangeError();
  conductor.start();
  await conductor.over;
  expect(said.at(-1)).toBe("stopped: Another tab copies this now.");
  expect(kept).toEqual([]);
});

test("what an earlier life gave up is not asked for again", async () => {
  const asked = new Map<number, number>();
  const dead = faultySource(memorySource(bytes, "card"), [{ start: 5 * MIB, length: 512, behaviour: "dead" }], async () => {});
  const counted: ByteSource = {
    ...dead,
    read: (offset, length) => {
      if (offset <= 5 * MIB && 5 * MIB < offset + length) asked.set(length, (asked.get(length) ?? 0) + 1);
      return dead.read(offset, length);
    },
  };
  const file = new File(true);
  const first = await copying(file, counted, null);
  first.conductor.start();
  await first.conductor.over;
  const lost = [{ offset: 5 * MIB, length: 512 }];
  expect(first.last()).toMatchObject({ status: "done", mark: { unreadable: lost } });
  const total = [...asked.values()].reduce((sum, times) => sum + times, 0);
  expect(total).toBeLessThanOrEqual(8);
  const again = await copying(file, counted, { ...first.last(), mark: { ...COPY_BEGIN, unreadable: lost } });
  again.conductor.start();
  await again.conductor.over;
  expect([...asked.values()].reduce((sum, times) => sum + times, 0)).toBe(total);
  expect(again.last().mark.unreadable).toEqual(lost);
});
