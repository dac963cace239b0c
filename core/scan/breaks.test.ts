import { describe, expect, test } from "vitest";
import { BREAK_MEDIA } from "../../test/break-media.ts";
import { broken, DEEP, live, NEVER, nothingKept, seen } from "../../test/breaks.ts";
import { expectNoRowLost } from "../../test/broken-databases.ts";
import { practiceCard } from "../../test/scanning.ts";

/** Breaks of each medium; `npm run breaks` makes two hundred, and `npm run test:long` breaks the worn card too. */
const SEEDS = 1;
const MEDIA = BREAK_MEDIA.filter(([name]) => name !== "worn card of databases");

describe.each(MEDIA)("%s", (_, open) => {
  test(`broken again and again, it comes to the same end as if it never were (${SEEDS} seed)`, async () => {
    const source = open();
    const whole = await live(source, DEEP, nothingKept(DEEP), NEVER);
    expect(whole.ended).toBe(true);
    for (let seed = 1; seed <= SEEDS; seed++) {
      const { kept, breaks } = await broken(source, DEEP, seed, whole);
      expect(seen(kept), `seed ${seed}: ${JSON.stringify(breaks)}`).toEqual(seen(whole.kept));
    }
  }, 300_000);
});

test("broken in the middle of the databases: no row is lost, told twice, or comes back from a stray page", async () => {
  await expectNoRowLost(3);
});

test("what was judged before a break is not judged again", async () => {
  const source = practiceCard();
  const whole = await live(source, DEEP, nothingKept(DEEP), NEVER);
  const listing = whole.passes.filter((pass) => pass === "listing").length;
  for (const after of [2, Math.floor(listing / 2), listing - 1, listing + 3]) {
    const first = await live(source, DEEP, nothingKept(DEEP), { how: "stopped", after, keepEvery: 1 });
    const rest = await live(source, DEEP, first.kept, NEVER);
    expect(rest.again, `after batch ${after}`).toBe(0);
    expect(rest.reads).toBeLessThanOrEqual(whole.reads);
  }
});
