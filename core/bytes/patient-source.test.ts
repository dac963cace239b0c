import fc from "fast-check";
import { expect, test } from "vitest";
import { noise } from "../../test/pictures.ts";
import { type Fault, faultySource } from "./faulty-source.ts";
import { memorySource } from "./memory-source.ts";
import { patientSource } from "./patient-source.ts";
import { NO_PLACES, PlaceLedger } from "./place-ledger.ts";
import { type ByteSource, UnreadableError, UnusableError } from "./source.ts";

const MIB = 1024 * 1024;
const bytes = noise(2 * MIB);
const now = async () => {};

/** A medium that counts how often each of its sectors was asked for. */
function counting(faults: readonly Fault[], content = bytes) {
  const asked = new Uint32Array(content.length / 512);
  const faulty = faultySource(memorySource(content, "card"), faults, now);
  const source: ByteSource = {
    ...faulty,
    read: (offset, length) => {
      for (let sector = Math.floor(offset / 512); sector * 512 < offset + length; sector++) asked[sector]++;
      return faulty.read(offset, length);
    },
  };
  return { source, asked };
}
const dead = (sector: number, sectors = 1): Fault => ({ start: sector * 512, length: sectors * 512, behaviour: "dead" });

test("loses its dead sectors and nothing else, and says which", async () => {
  const source = patientSource(counting([{ start: 5000, length: 700, behaviour: "dead" }]).source);
  const read = await source.read(0, 64 * 1024);
  // Sectors 9, 10 and 11 hold the 700 dead bytes.
  expect(source.unreadable.list()).toEqual([{ offset: 9 * 512, length: 3 * 512 }]);
  expect(read).toEqual(Uint8Array.from(bytes.subarray(0, 64 * 1024), (byte, at) => (at >= 9 * 512 && at < 12 * 512 ? 0 : byte)));
});

test("is asked again where it only stutters; what was slow and what stuttered is known", async () => {
  const flaky = { start: 5000, length: 10, behaviour: "flaky", succeedsOnAttempt: 7 } as const;
  const slow = { start: 200_000, length: 10, behaviour: "slow", delayMs: 3000 } as const;
  let clock = 0;
  const ledger = new PlaceLedger();
  const faulty = faultySource(memorySource(bytes, "card"), [flaky, slow], async (ms) => void (clock += ms));
  const source = patientSource(faulty, { ledger, now: () => clock });
  expect(await source.read(0, 128 * 1024)).toEqual(bytes.subarray(0, 128 * 1024));
  expect(await source.read(199_680, 1024)).toEqual(bytes.subarray(199_680, 200_704));
  expect(source.unreadable.bytes).toBe(0);
  const { flaky: stuttered, slow: late, dead: none } = ledger.kept();
  expect(stuttered).toEqual([{ offset: 9 * 512, length: 512 }]);
  expect(late).toHaveLength(1);
  expect(late[0].offset).toBeLessThanOrEqual(200_000);
  expect(none).toEqual([]);
});

test("whoever reads, in whatever pieces, at once or anew after a restart: no dead sector is asked for more than eight times", async () => {
  const places = [...[3, 4, 700, 701, 702, 2100, 4095].map((sector) => dead(sector)), dead(1000, 40)];
  const isDead = (sector: number) => places.some(({ start, length }) => start <= sector * 512 && sector * 512 < start + length);
  const expected = bytes.slice();
  for (const { start, length } of places) expected.fill(0, start, start + length);
  const reads = fc.array(fc.record({ offset: fc.nat(bytes.length - 1), length: fc.nat(MIB) }), { minLength: 1, maxLength: 12 });
  await fc.assert(
    fc.asyncProperty(reads, fc.boolean(), async (list, atOnce) => {
      const { source: medium, asked } = counting(places);
      let kept = NO_PLACES;
      for (let life = 0; life < 4; life++) {
        const ledger = new PlaceLedger();
        ledger.merge(structuredClone(kept));
        const source = patientSource(medium, { ledger });
        const one = async ({ offset, length }: { offset: number; length: number }) => {
          const part = Math.min(length, bytes.length - offset);
          const read = await source.read(offset, part);
          expect(Buffer.from(read).equals(expected.subarray(offset, offset + part))).toBe(true);
        };
        if (atOnce) await Promise.all(list.map(one));
        else for (const read of list) await one(read);
        await source.read(0, bytes.length);
        kept = ledger.kept();
      }
      for (let sector = 0; sector < asked.length; sector++)
        if (isDead(sector)) expect(asked[sector], `sector ${sector}`).toBeLessThanOrEqual(8);
      expect(kept.dead.reduce((sum, { length }) => sum + length, 0)).toBe(47 * 512);
    }),
    { numRuns: 25 },
  );
});

test("tries that were counted before a restart are not made again", async () => {
  const { source: medium, asked } = counting([dead(9)]);
  const ledger = new PlaceLedger();
  ledger.merge({
    ...NO_PLACES,
    failed: [[{ offset: 4608, length: 512 }], [{ offset: 4608, length: 512 }], [{ offset: 4608, length: 512 }]],
    tries: [[9, 3]],
  });
  const source = patientSource(medium, { ledger });
  await source.read(0, 8192);
  expect(asked[9]).toBe(1);
  expect(ledger.kept().tries).toEqual([]);
  expect(source.unreadable.list()).toEqual([{ offset: 4608, length: 512 }]);
});

/** Reads a window twice more after the first time, each time in a new life of what reads. @returns askings of each time, and how many of them failed */
async function threeLives(read: ByteSource["read"]): Promise<{ asked: number; failed: number }[]> {
  let kept = NO_PLACES;
  const lives: { asked: number; failed: number }[] = [];
  for (let life = 0; life < 3; life++) {
    const count = { asked: 0, failed: 0 };
    const ledger = new PlaceLedger();
    ledger.merge(structuredClone(kept));
    const medium: ByteSource = {
      name: "card",
      size: bytes.length,
      read: (offset, length) => {
        count.asked++;
        return read(offset, length).catch((cause: unknown) => {
          count.failed++;
          throw cause;
        });
      },
    };
    const source = patientSource(medium, { ledger });
    expect(Buffer.from(await source.read(0, MIB)).equals(expectedOf(source.unreadable.list()))).toBe(true);
    kept = ledger.kept();
    lives.push(count);
  }
  return lives;
}
const expectedOf = (lost: readonly { offset: number; length: number }[]): Uint8Array => {
  const expected = bytes.slice(0, MIB);
  for (const { offset, length } of lost) expected.fill(0, offset, offset + length);
  return expected;
};

test("what turned out to be sound beside a dead sector is asked for in one piece the next time, after a restart too", async () => {
  const { source: medium } = counting([dead(700)]);
  const [first, ...later] = await threeLives(medium.read);
  expect(first.asked).toBeGreaterThan(32);
  // What lies before it, and what lies behind.
  expect(later).toEqual([
    { asked: 2, failed: 0 },
    { asked: 2, failed: 0 },
  ]);
});

test("sound places that do not read together are tried together once, and then never again", async () => {
  const { source: medium } = counting([]);
  const lives = await threeLives(async (offset, length) => {
    if (length > 16 * 1024) throw new UnreadableError(offset, length);
    return medium.read(offset, length);
  });
  expect(lives[1].failed).toBe(1);
  expect(lives[2]).toEqual({ asked: MIB / (16 * 1024), failed: 0 });
});

test("in a large stretch that failed as a whole, short readings still come in blocks; a dead sector ends that for its block only", async () => {
  const { source: medium } = counting([dead(300)]);
  const ledger = new PlaceLedger();
  ledger.merge({ ...NO_PLACES, failed: [[{ offset: 0, length: MIB }], [], []] });
  const asked: number[] = [];
  const source = patientSource(
    {
      ...medium,
      read: (offset, length) => {
        asked.push(length);
        return medium.read(offset, length);
      },
    },
    { ledger },
  );
  // Backwards, so that nobody who reads on is given more.
  for (let sector = 127; sector >= 0; sector--)
    expect(await source.read(sector * 512, 512)).toEqual(bytes.subarray(sector * 512, sector * 512 + 512));
  expect(asked).toEqual([64 * 1024]);
  for (let sector = 383; sector >= 256; sector--) await source.read(sector * 512, 512);
  expect(source.unreadable.list()).toEqual([{ offset: 300 * 512, length: 512 }]);
  // The pieces of 256 and 16 KiB that fail, four askings of the sector, then what is sound beside it.
  expect(asked.length).toBeLessThan(60);
  for (let sector = 639; sector >= 512; sector--) await source.read(sector * 512, 512);
  expect(asked.at(-1)).toBe(64 * 1024);
});

test("is told from one that was pulled out: the reading ends, and no place is called dead for it", async () => {
  let there = true;
  const ledger = new PlaceLedger();
  const medium: ByteSource = {
    name: "card",
    size: bytes.length,
    read: async (offset, length) => {
      if (!there) throw new UnreadableError(offset, length);
      return bytes.subarray(offset, offset + length);
    },
  };
  const source = patientSource(medium, { ledger });
  await source.read(0, 2048);
  there = false;
  // What is kept in memory still reads; the rest is not taken for one large bad place.
  expect(await source.read(512, 512)).toEqual(bytes.subarray(512, 1024));
  for (const [offset, length] of [
    [600_000, 400_000],
    [1_200_128, 512],
  ])
    await expect(source.read(offset, length)).rejects.toEqual(new UnusableError("card does not answer any more."));
  expect(ledger.kept()).toMatchObject({ dead: [], tries: [] });
  there = true;
  expect(Buffer.compare(await source.read(600_000, 400_000), bytes.subarray(600_000, 1_000_000))).toBe(0);
});

test("one that goes away among dead sectors takes none of the living ones with it", async () => {
  const { source: faulty } = counting([dead(2000, 30)]);
  let left = Number.POSITIVE_INFINITY;
  const medium: ByteSource = {
    ...faulty,
    read: (offset, length) => (left-- > 0 ? faulty.read(offset, length) : Promise.reject(new UnreadableError(offset, length))),
  };
  // Wherever among its readings it goes away.
  for (let after = 1; after < 150; after += 7) {
    const ledger = new PlaceLedger();
    const source = patientSource(medium, { ledger });
    left = Number.POSITIVE_INFINITY;
    await source.read(0, 512);
    left = after;
    await source.read(1990 * 512, 60 * 512).catch(() => undefined);
    for (const { offset, length } of ledger.kept().dead) {
      expect(offset).toBeGreaterThanOrEqual(2000 * 512);
      expect(offset + length).toBeLessThanOrEqual(2030 * 512);
    }
  }
});

test("a wholly dead medium costs a bounded number of readings", async () => {
  const { source: medium, asked } = counting([dead(0, bytes.length / 512)]);
  const source = patientSource(medium);
  await source.read(0, bytes.length);
  expect(source.unreadable.bytes).toBe(bytes.length);
  expect(Math.max(...asked)).toBeLessThanOrEqual(8);
});

test("is left alone between two sectors when it is told to stop", async () => {
  const { source: medium, asked } = counting([dead(100, 2000)]);
  const stop = new AbortController();
  const seen = { readings: 0, after: 0 };
  const counted: ByteSource = {
    ...medium,
    read: (offset, length) => {
      if (stop.signal.aborted) seen.after++;
      if (++seen.readings === 300) stop.abort(new Error("stopped by hand"));
      return medium.read(offset, length);
    },
  };
  const source = patientSource(counted, { signal: stop.signal });
  await expect(source.read(0, bytes.length)).rejects.toThrow("stopped by hand");
  await expect(source.read(0, 512)).rejects.toThrow("stopped by hand");
  expect(seen).toEqual({ readings: 300, after: 0 });
  expect(asked[2050]).toBeLessThanOrEqual(3);
});

test("holes of a copy are never asked for", async () => {
  const { source: medium, asked } = counting([]);
  const ledger = new PlaceLedger();
  const source = patientSource({ ...medium, holes: [{ offset: 51_200, length: 5120 }] }, { ledger });
  const read = await source.read(0, bytes.length);
  expect(read.subarray(51_200, 56_320).every((byte) => byte === 0)).toBe(true);
  expect(asked.subarray(100, 110).every((times) => times === 0)).toBe(true);
  expect(ledger.kept()).toMatchObject({ notRead: [{ offset: 51_200, length: 5120 }], dead: [] });
});

test("a file that went away is asked for once; what lies around it is read", async () => {
  let asked = 0;
  const medium: ByteSource = {
    name: "archive",
    size: bytes.length,
    read: async (offset, length) => {
      if (offset < 400_000 && offset + length > 300_000) {
        asked++;
        throw new UnreadableError(300_000, 100_000, "it went away", true);
      }
      return bytes.subarray(offset, offset + length);
    },
  };
  const source = patientSource(medium);
  const read = await source.read(0, MIB);
  // Compared as a whole: byte by byte, as values, takes seconds.
  const expected = Uint8Array.from(bytes.subarray(0, MIB), (byte, at) => (at >= 300_000 && at < 400_000 ? 0 : byte));
  expect(Buffer.compare(read, expected)).toBe(0);
  expect(asked).toBe(1);
});
