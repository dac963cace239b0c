import { describe, expect, test } from "vitest";
import { BREAK_MEDIA } from "../../test/break-media.ts";
import { broken, live, NEVER, nothingKept, seen } from "../../test/breaks.ts";
import { practiceCard } from "../../test/scanning.ts";
import { EVERYTHING_THERE } from "./scope.ts";

/** Breaks of each medium; `npm run breaks` makes two hundred. */
const SEEDS = 1;
const DEEP = { depth: "deep", ...EVERYTHING_THERE } as const;

describe.each(BREAK_MEDIA)("%s", (_, open) => {
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

test("broken at places all over the databases: no row is lost, told twice, or comes back from a stray page", async () => {
  const open = BREAK_MEDIA.find(([name]) => name === "worn card of databases")?.[1];
  const source = open?.();
  if (!source) throw new Error("no such medium");
  const whole = await live(source, DEEP, nothingKept(DEEP), NEVER);
  const wanted = seen(whole.kept).records;
  let broke = 0;
  for (const [batch, pass] of whole.passes.entries()) {
    if (pass !== "databases" || batch % 9 !== 0) continue;
    const { kept } = await live(source, DEEP, nothingKept(DEEP), { how: "stopped", after: batch + 1, keepEvery: 1 });
    const rest = await live(source, DEEP, kept, NEVER);
    expect(seen(rest.kept).records, `after batch ${batch}`).toEqual(wanted);
    expect(rest.again).toBe(0);
    broke++;
  }
  expect(broke).toBeGreaterThanOrEqual(3);
}, 120_000);

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
