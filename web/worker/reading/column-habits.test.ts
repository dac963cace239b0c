import { expect, test } from "vitest";
import type { FoundRecord } from "../../../core/finds/record.ts";
import { aRow } from "../../../test/records.ts";
import { columnHabits } from "./column-habits.ts";

const rows = (count: number, columns: (index: number) => FoundRecord["columns"]) =>
  Array.from({ length: count }, (_, index) => aRow(columns(index)));

test("texts by how long they are, numbers as moments in seconds or milliseconds; what is seldom there counts as often as it is", () => {
  const some = rows(20, (index) => ({
    _id: index,
    body: "x".repeat(40 + (index % 2) * 20),
    date: 1_777_000_000_000 + index * 60_000,
    sent: index % 4 === 0 ? 0 : 1_777_000_000 + index,
    picture: new Uint8Array(9),
    none: null,
  }));
  expect(columnHabits(["_id", "body", "date", "sent", "picture", "none", "not there"], some)).toEqual([
    { name: "_id", letters: 0, time: null },
    { name: "body", letters: 50, time: null },
    { name: "date", letters: 0, time: "ms" },
    { name: "sent", letters: 0, time: "s" },
    { name: "picture", letters: 0, time: null },
    { name: "none", letters: 0, time: null },
    { name: "not there", letters: 0, time: null },
  ]);
});

test("sizes, telephone numbers and a few numbers that might be moments are none", () => {
  const some = rows(40, (index) => ({
    size: index * 90_000_000,
    number: 447_700_900_000 + index,
    mixed: index % 10 === 0 ? 7 : 1_777_000_000,
  }));
  expect(columnHabits(["size", "number", "mixed"], some).map(({ time }) => time)).toEqual([null, null, null]);
  expect(
    columnHabits(
      ["at"],
      rows(4, () => ({ at: 1_777_000_000 })),
    )[0].time,
  ).toBeNull();
});
