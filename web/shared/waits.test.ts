import { expect, test } from "vitest";
import { nextWait } from "./waits.ts";

test("while nobody answers each wait is twice as long, up to a minute; an answer brings the usual pace back", () => {
  expect([0, 1, 2, 3, 4, 5, 50].map((unanswered) => nextWait(3000, unanswered))).toEqual([
    3000, 6000, 12_000, 24_000, 48_000, 60_000, 60_000,
  ]);
  // An hour without a server: some sixty questions, and not thousands.
  let asked = 0;
  for (let passed = 0; passed < 3_600_000; asked++) passed += nextWait(3000, asked);
  expect(asked).toBeLessThan(70);
});
