import { expect, test } from "vitest";
import { type KeptScan, newScan } from "../kept/kept-scan.ts";
import { copyWords, findsOf, partDone, type Standing, scanWords, standingWords } from "./scan-words.ts";

test.each([
  ["new", 1000, 0, "found, not copied yet"],
  ["running", 1000, 419, "copying, 41 %"],
  ["pausing", 1000, 500, "copying, 50 %, pausing"],
  ["paused", 1000, 500, "copy paused at 50 %"],
  ["stopped", 1000, 999, "copy stopped at 99 %"],
  ["held", 1000, 10, "copy held at 1 %"],
  ["failed", 1000, 10, "copy broken off at 1 %"],
  ["done", 1000, 1000, "copied, not scanned yet"],
  ["done", 0, 0, "copied, not scanned yet"],
] as const)("a copy that is %s of %d bytes, %d done, says: %s", (status, size, done, words) => {
  expect(copyWords({ status, size, done })).toBe(words);
});

const standing = (status: KeptScan["status"], more: Partial<Standing> = {}): Standing => ({
  scan: { ...newScan(), status },
  secondsLeft: null,
  copy: null,
  ...more,
});

test.each<readonly [readonly Standing[], string | RegExp]>([
  [[], "no storage yet"],
  [[standing("new")], "not started"],
  [[standing("new", { copy: { status: "running", done: 1, size: 4 } })], "copying, 25 %"],
  [[standing("done"), standing("paused")], "1 of 2 done"],
  [
    [standing("done"), standing("running", { secondsLeft: 60 }), standing("running", { secondsLeft: 240 })],
    /^1 of 3 done, 2 at work, 4 min/,
  ],
  [[standing("running"), standing("held")], "0 of 2 done, one held"],
  [[standing("done"), standing("done", { copy: { status: "running", done: 1, size: 4 } })], "1 of 2 done, 1 at work"],
])("a ticket's media together say where they stand: %#", (all, words) => {
  expect(standingWords(all)).toMatch(words);
});

test("finds of all media are summed up", () => {
  const scan = newScan();
  scan.counts.photo.erased = 7;
  expect(findsOf([{ scan }, { scan }, { scan: newScan() }])).toBe(14);
});

test("the part of a scan that is done never falls from pass to pass, and is all only at its end", () => {
  for (const depth of ["quick", "deep"] as const) {
    const scan = (pass: KeptScan["progress"]["pass"], done: number): KeptScan => ({
      ...newScan(),
      depth,
      status: "running",
      progress: { pass, done, total: 100 },
    });
    const parts = (["listing", "sweep", "archives", "databases", "reconcile"] as const).flatMap((pass) =>
      [0, 50, 100, 200].map((done) => partDone(scan(pass, done))),
    );
    expect([...parts].sort((a, b) => a - b)).toEqual(parts);
    expect(parts.at(-1)).toBeLessThan(1);
    expect(partDone({ ...scan("done", 100), status: "done" })).toBe(1);
  }
});

test.each([
  ["new", null, "not started"],
  ["starting", null, "starting"],
  ["pausing", null, /^\d+ %, pausing$/],
  ["held", null, /^held at \d+ %$/],
  ["running", 95, /^\d+ %, .+ left$/],
  ["paused", null, /^paused at \d+ %$/],
  ["stopped", null, /^stopped at \d+ %$/],
  ["failed", null, "broken off"],
] as const)("a scan that is %s is said in a few words", (status, secondsLeft, words) => {
  expect(scanWords({ ...newScan(), status }, secondsLeft)).toMatch(words);
});
