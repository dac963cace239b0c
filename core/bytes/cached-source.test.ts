import fc from "fast-check";
import { expect, test } from "vitest";
import { noise } from "../../test/pictures.ts";
import { cachedSource } from "./cached-source.ts";
import { memorySource } from "./memory-source.ts";
import { type ByteSource, UnreadableError } from "./source.ts";

const KIB = 1024;
const bytes = noise(6 * 1024 * KIB);
const medium = memorySource(bytes, "card");

/** A source that notes what was really asked of it. */
function watched(source: ByteSource = medium, ...how: Parameters<typeof cachedSource> extends [unknown, ...infer Rest] ? Rest : never) {
  const asked: [number, number][] = [];
  const spied: ByteSource = {
    name: source.name,
    size: source.size,
    read: (offset, length) => {
      asked.push([offset / KIB, length / KIB]);
      return source.read(offset, length);
    },
  };
  return { cached: cachedSource(spied, ...how), asked };
}

test("whatever is read in whatever order, the bytes are those of the medium", async () => {
  const reads = fc.array(fc.record({ offset: fc.nat(bytes.length - 1), length: fc.nat(900 * KIB) }), { maxLength: 30 });
  await fc.assert(
    fc.asyncProperty(reads, fc.boolean(), async (list, atOnce) => {
      const { cached } = watched();
      const one = async ({ offset, length }: { offset: number; length: number }) => {
        const part = Math.min(length, bytes.length - offset);
        expect(Buffer.from(await cached.read(offset, part)).equals(bytes.subarray(offset, offset + part))).toBe(true);
      };
      if (atOnce) await Promise.all(list.map(one));
      else for (const read of list) await one(read);
    }),
    { numRuns: 40 },
  );
});

test("headers come from one block; large reads are read as they are; neither is asked for twice", async () => {
  const { cached, asked } = watched();
  for (let at = 0; at < 50; at++) await cached.read(1000 * KIB + at * 32, 32);
  await cached.read(2048 * KIB, 512 * KIB);
  await cached.read(2100 * KIB, 64 * KIB);
  expect(asked).toEqual([
    [960, 64],
    [2048, 512],
  ]);
  expect(cached.bytesRead).toBe(576 * KIB);
});

test("who reads on is given ever larger pieces; two who want the same wait for the same reading", async () => {
  const { cached, asked } = watched();
  for (let at = 0; at < 24; at++) await cached.read(at * 256 * KIB, 256 * KIB);
  expect(asked).toEqual([
    [0, 256],
    [256, 1024],
    [1280, 4096],
    [5376, 768],
  ]);
  const twice = watched();
  const [first, second] = await Promise.all([twice.cached.read(0, 4096 * KIB), twice.cached.read(100, 5000)]);
  expect(twice.asked).toEqual([[0, 4096]]);
  expect(Buffer.from(second).equals(first.subarray(100, 5100))).toBe(true);
});

test("where more than was asked for is not to be had, what was asked for still is, for all who wait for it", async () => {
  const exact: [number, number][] = [];
  const source: ByteSource = {
    ...medium,
    read: (offset, length) => {
      exact.push([offset / KIB, length / KIB]);
      return medium.read(offset, length);
    },
  };
  const cached = cachedSource(source, async (offset, length) => {
    throw new UnreadableError(offset, length);
  });
  const reads = await Promise.all([70, 71, 72].map((at) => cached.read(at * KIB, 512)));
  reads.forEach((read, index) => {
    expect(Buffer.from(read).equals(bytes.subarray((70 + index) * KIB, (70 + index) * KIB + 512))).toBe(true);
  });
  expect(exact.sort()).toEqual([70, 71, 72].map((at) => [at, 0.5]));
});

test("a range outside is the caller's mistake", async () => {
  const { cached } = watched();
  for (const [offset, length] of [
    [-1, 4],
    [bytes.length - 2, 4],
    [0.5, 4],
    [0, -1],
  ])
    await expect(cached.read(offset, length)).rejects.toThrow(RangeError);
});

test("what is gone through from end to end is read one piece ahead; nothing behind the end, nothing twice", async () => {
  const { cached, asked } = watched(medium, undefined, { mostAhead: 1024 * KIB, pieces: 4, oneAhead: true });
  const pages = (to: number) => to / 4;
  let page = 0;
  const goTo = async (to: number) => {
    for (; page < pages(to); page++) {
      const got = cached.peek(page * 4 * KIB, 4 * KIB) ?? (await cached.read(page * 4 * KIB, 4 * KIB));
      expect(Buffer.from(got).equals(bytes.subarray(page * 4 * KIB, (page + 1) * 4 * KIB))).toBe(true);
    }
  };
  await goTo(1340);
  // Of the piece from 320 on all is asked for when its first page is, and the one behind it with its second.
  expect(asked).toEqual([
    [0, 64],
    [64, 256],
    [320, 1024],
    [1344, 1024],
  ]);
  await goTo(6 * 1024);
  expect(asked.slice(3)).toEqual([1344, 2368, 3392, 4416, 5440].map((at) => [at, Math.min(1024, 6 * 1024 - at)]));
  expect(cached.bytesRead).toBe(bytes.length);
});

test("a piece ahead that cannot be read is nobody's failure: who comes there is told, and what lies behind it is read", async () => {
  const dead = 2000 * KIB;
  const worn: ByteSource = {
    ...medium,
    read: async (offset, length) => {
      if (offset <= dead && dead < offset + length) throw new UnreadableError(dead, 512);
      return medium.read(offset, length);
    },
  };
  const { cached } = watched(worn, undefined, { mostAhead: 1024 * KIB, pieces: 4, oneAhead: true });
  const failed: number[] = [];
  for (let at = 0; at < bytes.length; at += 4 * KIB) {
    const got = cached.peek(at, 4 * KIB) ?? (await cached.read(at, 4 * KIB).catch(() => null));
    if (!got) failed.push(at);
    else expect(Buffer.from(got).equals(bytes.subarray(at, at + 4 * KIB))).toBe(true);
  }
  expect(failed).toEqual([dead]);
});
