import { expect, test } from "vitest";
import { memorySource } from "../bytes/memory-source.ts";
import { patientSource } from "../bytes/patient-source.ts";
import { Claims } from "./claims.ts";
import { FormerRegions } from "./detect/former-regions.ts";
import { type FreeRun, FreeSpace } from "./free-space.ts";

/** A card in crumbs: one free cluster of 512 bytes beside one in use. */
const crumbs = (count: number): FreeRun[] => Array.from({ length: count }, (_, run) => ({ offset: run * 1024, length: 512, volume: null }));
const source = patientSource(memorySource(new Uint8Array(1024 * 1024), "crumbs"));

test("what begins at a place is looked at over as many stretches as that takes, and no more", async () => {
  const space = new FreeSpace(source, crumbs(1000));
  expect(space.from(10, 10 * 1024, 960)).toEqual([
    { offset: 10 * 1024, length: 512 },
    { offset: 11 * 1024, length: 512 },
  ]);
  expect(await space.head(10, 10 * 1024, 960)).toHaveLength(960);
  expect(space.from(10, 10 * 1024)).toHaveLength(990);
});

test("the stretch that holds a byte is found as by looking through all of them", () => {
  const runs = crumbs(777);
  const space = new FreeSpace(source, runs);
  for (let step = 0; step < 777; step++) {
    const at = runs[step].offset + ((step * 37) % 512);
    expect(space.indexAt(at)).toBe(runs.findIndex(({ offset, length }) => offset <= at && at < offset + length));
  }
});

test("every stretch stands in its own region, once, in order, however many there are", () => {
  const runs = crumbs(200_000);
  const [region, ...others] = new FormerRegions(source, runs, new Claims()).all;
  expect(others).toEqual([]);
  expect(region.runs).toEqual(runs);
  expect([region.start, region.end]).toEqual([0, 199_999 * 1024 + 512]);
});
