import { expect, test } from "vitest";
import { BANDED } from "../../core/finds/bands.ts";
import { treeLines } from "../hand-over/tree-lines.ts";
import { duration } from "../shared/words.ts";
import { bucketsOf, monthMarks, zoomed } from "./day-buckets.ts";
import { bandWords } from "./fact-words.ts";
import { layRows, placeBelow, rowAt } from "./wall-rows.ts";

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

test("days that are brushed over are seen from nearer, with as much again beside them, and never beyond what there is", () => {
  const span = { first: 20_000, last: 20_999 };
  expect(zoomed(null, span)).toEqual(span);
  expect(zoomed({ from: 20_400, to: 20_499 }, span)).toEqual({ first: 20_350, last: 20_549 });
  // One day still has four weeks around it.
  const near = zoomed({ from: 20_500, to: 20_500 }, span);
  expect([near?.first, near?.last]).toEqual([20_486, 20_514]);
  // At an end the room is on the other side.
  expect(zoomed({ from: 20_000, to: 20_099 }, span)).toEqual({ first: 20_000, last: 20_199 });
  expect(zoomed({ from: 20_990, to: 20_999 }, span)).toEqual({ first: 20_972, last: 20_999 });
  expect(zoomed({ from: 20_003, to: 20_004 }, { first: 20_000, last: 20_009 })).toEqual({ first: 20_000, last: 20_009 });
  const brushed = bucketsOf(
    [
      { day: 20_450, erased: 1, others: 0 },
      { day: 20_010, erased: 5, others: 0 },
    ],
    zoomed({ from: 20_440, to: 20_460 }, span),
  );
  expect(brushed.reduce((sum, { erased }) => sum + erased, 0)).toBe(1);
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

test("a wall of lines under the heading of each group", () => {
  const groups = [
    { of: 20_001, count: 7 },
    { of: null, count: 2 },
    { of: 19_000, count: 3 },
  ];
  expect(layRows(12, groups, 5)).toEqual([
    { type: "heading", group: 20_001, count: 7 },
    { type: "finds", from: 0, to: 5 },
    { type: "finds", from: 5, to: 7 },
    { type: "heading", group: null, count: 2 },
    { type: "finds", from: 7, to: 9 },
    { type: "heading", group: 19_000, count: 3 },
    { type: "finds", from: 9, to: 12 },
  ]);
  expect(layRows(11, null, 5)).toEqual([
    { type: "finds", from: 0, to: 5 },
    { type: "finds", from: 5, to: 10 },
    { type: "finds", from: 10, to: 11 },
  ]);
});

test("days with one or two things stand side by side, as many as there is room for; in a list each has its heading", () => {
  const groups = [1, 2, 1, 2, 6, 1, 1].map((count, index) => ({ of: index, count }));
  expect(layRows(14, groups, 5)).toEqual([
    {
      type: "blocks",
      from: 0,
      to: 4,
      blocks: [
        { group: 0, from: 0, to: 1 },
        { group: 1, from: 1, to: 3 },
        { group: 2, from: 3, to: 4 },
      ],
    },
    { type: "heading", group: 3, count: 2 },
    { type: "finds", from: 4, to: 6 },
    { type: "heading", group: 4, count: 6 },
    { type: "finds", from: 6, to: 11 },
    { type: "finds", from: 11, to: 12 },
    {
      type: "blocks",
      from: 12,
      to: 14,
      blocks: [
        { group: 5, from: 12, to: 13 },
        { group: 6, from: 13, to: 14 },
      ],
    },
  ]);
  const list = layRows(14, groups, 1);
  expect(list.filter(({ type }) => type === "heading").length).toBe(7);
  expect(list.filter(({ type }) => type === "finds").length).toBe(14);
});

test("up and down lead to the tile that is seen there, over headings, short rows and both ends", () => {
  const rows = layRows(
    11,
    [2, 1, 8].map((count, of) => ({ of, count })),
    4,
  );
  // 0 1 · 2 / heading / 3 4 5 6 / 7 8 9 10
  expect(placeBelow(rows, 1, 1)).toBe(4);
  expect(placeBelow(rows, 6, -1)).toBe(2);
  expect(placeBelow(rows, 5, 1)).toBe(9);
  expect(placeBelow(rows, 9, 1)).toBe(9);
  expect(placeBelow(rows, 0, -4)).toBe(0);
  expect(placeBelow(rows, 0, 4)).toBe(7);
  expect(rowAt(rows, 10)).toBe(rows.length - 1);
  expect(rowAt(rows, 11)).toBe(-1);
});

test("bands of facts say where they begin and end", () => {
  expect(BANDED.map((fact) => [0, 1, 2, 3, 4].map((band) => bandWords(fact, band)))).toEqual([
    ["under 100 KB", "100 KB – 1 MB", "1 MB – 10 MB", "10 MB – 100 MB", "over 100 MB"],
    ["under 10 s", "10 s – 1 min", "1 min – 10 min", "10 min – 1 h", "over 1 h"],
    ["under 0.3 MP", "0.3 MP – 2 MP", "2 MP – 8 MP", "8 MP – 20 MP", "over 20 MP"],
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
