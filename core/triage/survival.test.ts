import { expect, test } from "vitest";
import { seeded } from "../../demo/random.ts";
import { blockSurvival, fileSurvival } from "./survival.ts";

const BLOCKS = 20_000;

/** An allocator that writes runs anywhere into free space and frees them again: what is left of untouched stretches? */
function simulate(written: number, run: number, file: number, seed: number): { blocks: number; files: number } {
  const random = seeded(seed);
  const touched = new Uint8Array(BLOCKS);
  for (let done = 0; done < written; done += run) {
    const from = Math.floor(random() * BLOCKS);
    for (let block = from; block < from + run; block++) touched[block % BLOCKS] = 1;
  }
  let blocks = 0;
  let files = 0;
  const places = BLOCKS - file;
  for (let block = 0; block < BLOCKS; block++) if (!touched[block]) blocks++;
  let lastTouched = -1;
  for (let block = 0; block < BLOCKS; block++) {
    if (touched[block]) lastTouched = block;
    if (block >= file && block - lastTouched >= file) files++;
  }
  return { blocks: blocks / BLOCKS, files: files / places };
}

test.each([
  [0.02, 10, 10],
  [0.2, 10, 4],
  [0.2, 10, 40],
  [0.5, 20, 20],
  [1, 5, 5],
  [2, 50, 10],
])("written %d times the free space, in runs of %d blocks, files of %d: as the model says", (part, run, file) => {
  const rounds = Array.from({ length: 30 }, (_, seed) => simulate(part * BLOCKS, run, file, seed + 1));
  const mean = (of: "blocks" | "files") => rounds.reduce((sum, round) => sum + round[of], 0) / rounds.length;
  expect(Math.abs(mean("blocks") - blockSurvival(part * BLOCKS, BLOCKS))).toBeLessThan(0.02);
  expect(Math.abs(mean("files") - fileSurvival(file, part * BLOCKS, BLOCKS, run))).toBeLessThan(0.03);
});

test("nothing written: everything is there; no free space left and something written: nothing is", () => {
  expect([blockSurvival(0, 100), fileSurvival(5, 0, 100), blockSurvival(0, 0)]).toEqual([1, 1, 1]);
  expect([blockSurvival(1, 0), fileSurvival(1, 1, 0)]).toEqual([0, 0]);
});
