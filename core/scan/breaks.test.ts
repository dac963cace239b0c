import { describe, expect, test } from "vitest";
import { BREAK_MEDIA } from "../../test/break-media.ts";
import { broken, live, NEVER, nothingKept, seen } from "../../test/breaks.ts";

/** Breaks of each medium; `npm run breaks` makes two hundred. */
const SEEDS = 5;
const DEEP = { depth: "deep", kinds: null } as const;

describe.each(BREAK_MEDIA)("%s", (_, open) => {
  test(`broken again and again, it comes to the same end as if it never were (${SEEDS} seeds)`, async () => {
    const source = open();
    const whole = await live(source, DEEP, nothingKept(DEEP), NEVER);
    expect(whole.ended).toBe(true);
    for (let seed = 1; seed <= SEEDS; seed++) {
      const { kept, breaks } = await broken(source, DEEP, seed, whole);
      expect(seen(kept), `seed ${seed}: ${JSON.stringify(breaks)}`).toEqual(seen(whole.kept));
    }
  }, 300_000);
});
