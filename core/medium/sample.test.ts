import { expect, test } from "vitest";
import { noise, patched } from "../../test/pictures.ts";
import { hashOf } from "../../test/scanning.ts";
import { type Fault, faultySource } from "../bytes/faulty-source.ts";
import { portableSha256 } from "../bytes/hash.ts";
import { memorySource } from "../bytes/memory-source.ts";
import { isSameSample, sampleOf, wholeSampleOf } from "./sample.ts";

const bytes = noise(300_000);
const sha256 = await portableSha256();
const of = (content: Uint8Array, ...faults: Fault[]) =>
  sampleOf(
    faultySource(memorySource(content, "card"), faults, async () => {}),
    sha256,
  );
const dead = (start: number): Fault => ({ start, length: 1, behaviour: "dead" });
const sound = await of(bytes);

test("sixteen places, from the first byte to the last", () => {
  expect(sound).toHaveLength(16);
  expect(sound[0]).toBe(hashOf(bytes.subarray(0, 4096)));
  expect(sound[15]).toBe(hashOf(bytes.subarray(-4096)));
});

test("a place that does not read counts neither for nor against it, whichever time it did not", async () => {
  const flaky = await of(bytes, dead(100), dead(299_000));
  expect(flaky.map((place) => place === null)).toEqual(sound.map((_, index) => index === 0 || index === 15));
  expect(isSameSample(sound, flaky)).toBe(true);
  expect(isSameSample(flaky, sound)).toBe(true);
  const other = await of(patched(bytes, 299_900, [1, 2, 3]), dead(100));
  expect(isSameSample(sound, other)).toBe(false);
  expect(isSameSample(flaky, other)).toBe(true);
  expect(isSameSample(sound, await of(patched(bytes, 5, [1, 2, 3])))).toBe(false);
});

test("tickets of before kept one hash: it holds where all places read, and says nothing where one does not", async () => {
  const old = hashOf(
    Buffer.concat([
      Buffer.from(String(bytes.length)),
      ...Array.from({ length: 16 }, (_, place) => {
        const at = Math.floor(((bytes.length - 4096) * place) / 15);
        return bytes.subarray(at, at + 4096);
      }),
    ]),
  );
  expect(await wholeSampleOf(memorySource(bytes, "card"), sha256)).toBe(old);
  expect(
    await wholeSampleOf(
      faultySource(memorySource(bytes, "card"), [dead(100)], async () => {}),
      sha256,
    ),
  ).toBeNull();
});

test("a source that is smaller than a place", async () => {
  expect(new Set(await of(bytes.slice(0, 10)))).toEqual(new Set([hashOf(bytes.subarray(0, 10))]));
});
