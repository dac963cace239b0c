import { expect, test } from "vitest";
import { Pace } from "./pace.ts";
import { Cell, StorageMap } from "./storage-map.ts";

test("a cell is free when more than half of it is; searched cells, strokes and bad places are laid over it", () => {
  const map = new StorageMap(1000, 10, [
    { offset: 0, length: 160 },
    { offset: 340, length: 40 },
    { offset: 500, length: 500 },
  ]);
  const { free, used, searched, unreadable } = Cell;
  expect([...map.cells]).toEqual([free, free, used, used, used, free, free, free, free, free]);
  map.searchedTo(700);
  expect([...map.cells]).toEqual([searched, searched, used, used, used, searched, searched, free, free, free]);
  map.unreadable([{ offset: 399, length: 2 }]);
  expect([...map.cells].slice(2, 6)).toEqual([used, unreadable, unreadable, searched]);
  map.found(999);
  map.found(999);
  map.found(0);
  expect([...map.strokes]).toEqual([1, 0, 0, 0, 0, 0, 0, 0, 0, 2]);
  map.searchedTo(1000);
  expect([...map.cells]).not.toContain(free);
});

test("the pace is that of the last readings; without enough of them nothing is claimed", () => {
  const pace = new Pace();
  pace.note(0, 0);
  pace.note(100, 5000);
  expect([pace.bytesPerSecond, pace.secondsLeft(10_000)]).toEqual([null, null]);
  for (let second = 1; second <= 60; second++) pace.note(second * 1000, second < 20 ? 0 : (second - 20) * 2_000_000);
  expect(pace.bytesPerSecond).toBe(2_000_000);
  expect(pace.secondsLeft(100_000_000)).toBe(10);
  expect(pace.secondsLeft(1)).toBe(0);
  // The next pass begins at its own first byte: the speed is that pass's, and never below nothing.
  pace.note(61_000, 0);
  pace.note(62_000, 1_000_000);
  expect(pace.bytesPerSecond).toBe(1_000_000);
  expect(pace.secondsLeft(3_000_000)).toBe(2);
  pace.forget();
  expect(pace.bytesPerSecond).toBeNull();
});
