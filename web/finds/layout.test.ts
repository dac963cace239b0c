import { expect, test } from "vitest";
import { treeLines } from "../hand-over/tree-lines.ts";
import { duration } from "../shared/words.ts";
import { bucketsOf, monthMarks } from "./day-buckets.ts";
import { layRows } from "./wall-rows.ts";

test("single days where they fit, else as many days a bar as are needed; no find is lost", () => {
  const days = Array.from({ length: 400 }, (_, index) => ({ day: 20_000 + index, erased: 1, others: 2 }));
  const short = bucketsOf(days.slice(0, 30), { first: 20_000, last: 20_029 });
  expect(short.length).toBe(30);
  expect(short[7]).toEqual({ from: 20_007, days: 1, erased: 1, others: 2 });
  const long = bucketsOf(days, { first: 20_000, last: 20_399 });
  expect(long.length).toBeLessThanOrEqual(150);
  expect(long.reduce((sum, { erased, others }) => sum + erased + others, 0)).toBe(1200);
  for (let index = 1; index < long.length; index++) expect(long[index].from).toBe(long[index - 1].from + long[index - 1].days);
  // As wide as its finds: one day is one bar.
  expect(bucketsOf(days.slice(0, 1), { first: 20_000, last: 20_000 }).length).toBe(1);
  expect(bucketsOf([], null)).toEqual([]);
});

test("months stand where they begin, thinned out where they would run into each other", () => {
  const day = (text: string) => Date.parse(text) / 86_400_000;
  const marks = (from: string, to: string) => monthMarks(bucketsOf([], { first: day(from), last: day(to) }));
  expect(marks("2026-02-14", "2026-05-16").map(({ words }) => words)).toEqual(["Mar", "Apr", "May"]);
  const [march] = marks("2026-02-14", "2026-05-16");
  expect(march.at).toBeCloseTo(15 / 92, 6);
  expect(marks("2025-11-20", "2026-02-10").map(({ words }) => words)).toEqual(["Dec", "2026", "Feb"]);
  expect(marks("2026-05-02", "2026-05-09")).toEqual([]);
  for (const [from, to] of [
    ["2019-03-01", "2026-05-01"],
    ["1970-01-01", "2199-12-31"],
  ]) {
    const long = marks(from, to);
    expect(long.length).toBeLessThanOrEqual(17);
    expect(long.length).toBeGreaterThan(3);
    expect(long.every(({ words }) => /^\d{4}$|^[A-Z]/.test(words))).toBe(true);
  }
});

test("a wall of lines under the heading of each day", () => {
  const groups = [
    { day: 20_001, count: 7 },
    { day: null, count: 2 },
  ];
  expect(layRows(9, groups, 5)).toEqual([
    { type: "heading", day: 20_001, count: 7 },
    { type: "finds", from: 0, to: 5 },
    { type: "finds", from: 5, to: 7 },
    { type: "heading", day: null, count: 2 },
    { type: "finds", from: 7, to: 9 },
  ]);
  expect(layRows(11, null, 5)).toEqual([
    { type: "finds", from: 0, to: 5 },
    { type: "finds", from: 5, to: 10 },
    { type: "finds", from: 10, to: 11 },
  ]);
});

test("what will be written, as a tree that counts what it does not show", () => {
  const paths = [...Array.from({ length: 10 }, (_, index) => `photos/p${index}.jpg`), "documents/a.txt"];
  expect(treeLines("Ticket 0101", paths, true)).toEqual([
    "Ticket 0101",
    "├ photos  10",
    ...Array.from({ length: 8 }, (_, index) => `│  ├ p${index}.jpg`),
    "│  └ … 2 more",
    "├ documents  1",
    "│  └ a.txt",
    "├ summary.html",
    "└ sha256sums.txt",
  ]);
});

test.each([
  [12.4, "12 s"],
  [59, "59 s"],
  [61, "1 min 1 s"],
  [3700, "1 h 1 min"],
])("%d seconds are said as %s", (seconds, words) => {
  expect(duration(seconds)).toBe(words);
});
