import fc from "fast-check";
import { expect, test } from "vitest";
import { clock } from "../shared/clock.ts";
import { FITTING, turned, zoomed } from "./sight.ts";

test("what lies under the pointer stays under it, however far one zooms in and out", () => {
  const place = fc.integer({ min: -800, max: 800 });
  fc.assert(
    fc.property(fc.array(fc.double({ min: 0.3, max: 3, noNaN: true }), { maxLength: 8 }), place, place, (factors, x, y) => {
      let sight = FITTING;
      for (const factor of factors) {
        // The point of the picture that is seen at (x, y), in its own measure from its middle.
        const before = [(x - sight.x) / sight.zoom, (y - sight.y) / sight.zoom];
        sight = zoomed(sight, sight.zoom * factor, { x, y });
        const after = [(x - sight.x) / sight.zoom, (y - sight.y) / sight.zoom];
        expect(after[0]).toBeCloseTo(before[0], 6);
        expect(after[1]).toBeCloseTo(before[1], 6);
        expect(sight.zoom).toBeGreaterThanOrEqual(0.2);
        expect(sight.zoom).toBeLessThanOrEqual(64);
      }
    }),
  );
});

test("four turns to either side lead back", () => {
  for (const by of [90, -90]) {
    let sight = FITTING;
    const seen = [0, 1, 2, 3].map(() => {
      sight = turned(sight, by);
      return sight.turn;
    });
    expect(seen).toEqual(by > 0 ? [90, 180, 270, 0] : [270, 180, 90, 0]);
  }
});

test.each([
  [0, "0:00"],
  [59.9, "0:59"],
  [247, "4:07"],
  [3600, "1:00:00"],
  [3750.5, "1:02:30"],
  [-3, "0:00"],
])("%d seconds are %s", (seconds, words) => {
  expect(clock(seconds)).toBe(words);
});
