import fc from "fast-check";
import { expect, test } from "vitest";
import { KeyTable } from "./key-table.ts";

const keys = fc.oneof(
  fc.nat(300).map((number) => `1:m${number}`),
  fc.string({ unit: "binary", maxLength: 40 }),
  fc.string({ unit: fc.integer({ min: 0, max: 0xffff }).map((unit) => String.fromCharCode(unit)), maxLength: 12 }),
  // What the writing out of long units could take for one another.
  fc.constantFrom("\u00ff", "\u00fe", "\uff00", "\ud800", "\udc00", "\ufffd", "\u00ff\u0000", ""),
);

test("any keys, whatever is in them: each has its number from the order they came in, and comes back as it was", () => {
  fc.assert(
    fc.property(fc.array(keys, { maxLength: 3000, size: "max" }), (all) => {
      const table = new KeyTable();
      const plain = new Map<string, number>();
      const told = all.map((key) => [table.rowOf(key), table.put(key)]);
      const expected = all.map((key) => {
        const before = plain.get(key);
        plain.set(key, before ?? plain.size);
        return [before, before ?? plain.size - 1];
      });
      expect(told).toEqual(expected);
      const known = [...plain];
      expect(known.map(([key, row]) => [table.keyOf(row), table.rowOf(key)])).toEqual(known);
      expect(table.length).toBe(plain.size);
    }),
    { numRuns: 15 },
  );
});

test("a key of 100,000 signs among others", () => {
  const table = new KeyTable();
  const long = "灯a".repeat(50_000);
  expect([table.put("1:a"), table.put(long), table.put("1:b"), table.put(long)]).toEqual([0, 1, 2, 1]);
  expect([table.keyOf(0), table.keyOf(1), table.keyOf(2)]).toEqual(["1:a", long, "1:b"]);
  expect(table.rowOf(long.slice(1))).toBeUndefined();
});
