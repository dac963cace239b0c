import { expect, test } from "vitest";
import { newScan, type ScanRecord } from "../kept/job.ts";
import { partDone, scanWords, storageWords } from "./scan-words.ts";

const mark = (done: number) => ({ done, hash: null, unreadable: [] });

test.each([
  [null, "no storage yet"],
  [{ status: "found", size: 1000, mark: mark(0) }, "no storage yet"],
  [{ status: "running", size: 1000, mark: mark(419) }, "copying, 41 %"],
  [{ status: "stopped", size: 1000, mark: mark(999) }, "copy stopped at 99 %"],
  [{ status: "failed", size: 1000, mark: mark(10) }, "copy broken off at 1 %"],
  [{ status: "done", size: 1000, mark: mark(1000) }, "copied, not scanned yet"],
  [{ status: "done", size: 0, mark: mark(0) }, "copied, not scanned yet"],
] as const)("a ticket with the copy %j says: %s", (copy, words) => {
  expect(storageWords(copy)).toBe(words);
});

test("the part of a scan that is done never falls from pass to pass, and is all only at its end", () => {
  for (const depth of ["quick", "deep"] as const) {
    const scan = (pass: ScanRecord["progress"]["pass"], done: number): ScanRecord => ({
      ...newScan(),
      depth,
      status: "running",
      progress: { pass, done, total: 100 },
    });
    const parts = (["listing", "sweep", "databases", "reconcile"] as const).flatMap((pass) =>
      [0, 50, 100, 200].map((done) => partDone(scan(pass, done))),
    );
    expect([...parts].sort((a, b) => a - b)).toEqual(parts);
    expect(parts.at(-1)).toBeLessThan(1);
    expect(partDone({ ...scan("done", 100), status: "done" })).toBe(1);
  }
});

test.each([
  ["new", null, "not started"],
  ["running", 95, /^\d+ %, .+ left$/],
  ["paused", null, /^paused at \d+ %$/],
  ["stopped", null, /^stopped at \d+ %$/],
  ["failed", null, "broken off"],
] as const)("a scan that is %s is said in a few words", (status, secondsLeft, words) => {
  expect(scanWords({ ...newScan(), status }, secondsLeft)).toMatch(words);
});
