import fc from "fast-check";
import { expect, test } from "vitest";
import { sortByNumbers } from "./radix.ts";

const SPECIAL = [0, -0, 1, -1, 0.1, -0.1, Number.MAX_VALUE, -Number.MAX_VALUE, Number.MIN_VALUE, -Number.MIN_VALUE, 2 ** 53, -(2 ** 53)];
const number = fc.oneof(
  fc.double({ noNaN: true }),
  fc.constantFrom(...SPECIAL, Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY),
  fc.integer({ min: 1_600_000_000_000, max: 1_600_000_000_040 }),
  fc.nat(30),
);

test("numbers of any size and sign stand as comparing puts them, and what is alike as it came, few of them and many", () => {
  fc.assert(
    fc.property(
      fc.array(number, { minLength: 1, maxLength: 60, size: "max" }),
      fc.constantFrom(1, 40),
      fc.boolean(),
      (some, times, descending) => {
        // Those that are repeated are alike in many places.
        const keys = Float64Array.from({ length: some.length * times }, (_, at) => some[(at * 7) % some.length]);
        const every = Array.from(keys, (_, row) => row).filter((row) => row % 5 !== 3);
        const expected = [...every].sort((a, b) => {
          if (keys[a] === keys[b]) return a - b;
          return keys[a] < keys[b] === descending ? 1 : -1;
        });
        const rows = Uint32Array.from(every);
        sortByNumbers(rows, keys, descending);
        expect([...rows]).toEqual(expected);
      },
    ),
  );
});
