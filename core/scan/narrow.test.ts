import { expect, test } from "vitest";
import { BREAK_MEDIA } from "../../test/break-media.ts";
import { broken, live, NEVER, nothingKept, seen } from "../../test/breaks.ts";
import { asked, expectNarrowAndWidened, named, SCOPES } from "../../test/narrowed.ts";
import { EVERYTHING_THERE, type Scope } from "./scope.ts";

const DEEP = { depth: "deep", ...EVERYTHING_THERE } as const;
/** One scope of each medium; `npm run test:long` has all. */
const MEDIA = BREAK_MEDIA.map(([name, open], number) => [name, open, SCOPES[number % SCOPES.length]] as const);

test.each(MEDIA)(
  "%s: narrowed and widened later it is everything at once, and costs little more",
  (_, open, scope) => expectNarrowAndWidened(open, [scope]),
  300_000,
);

test("a scan that is broken, narrowed and as it is widened, comes to the same end", async () => {
  for (const [name, open] of BREAK_MEDIA.filter(([name]) => name === "theatre-card" || name === "sd-exfat")) {
    const wanted = seen((await live(open(), DEEP, nothingKept(DEEP), NEVER)).kept);
    for (const [number, scope] of SCOPES.entries()) {
      if (name === "sd-exfat" && number !== 3) continue;
      const whole = await live(open(), asked(scope), nothingKept(asked(scope)), NEVER);
      const narrow = (await broken(open(), asked(scope), number + 1, whole)).kept;
      expect(seen(narrow), named(scope)).toEqual(seen(whole.kept));
      const rest = await live(open(), DEEP, narrow, NEVER);
      for (const after of [1, Math.ceil(rest.batches / 2)]) {
        const first = await live(open(), DEEP, narrow, { how: "stopped", after, keepEvery: 1 });
        expect(seen((await live(open(), DEEP, first.kept, NEVER)).kept), `${named(scope)}, after ${after}`).toEqual(wanted);
      }
    }
  }
}, 300_000);

test("widened step by step, each goes over its own part; asked for less than it covered, it begins anew", async () => {
  const [, open] = BREAK_MEDIA[0];
  const all = await live(open(), DEEP, nothingKept(DEEP), NEVER);
  const steps: readonly Scope[] = [
    { kinds: ["photo"], erasedOnly: true },
    { kinds: ["photo", "database"], erasedOnly: true },
    { kinds: ["photo", "database"], erasedOnly: false },
    EVERYTHING_THERE,
  ];
  let kept = nothingKept(asked(steps[0]));
  for (const step of steps) {
    const life = await live(open(), asked(step), kept, NEVER);
    // Nothing that an earlier step told is told again.
    const shown = new Set([...kept.finds.keys()].filter((id) => !kept.besides.has(id)));
    expect([...shown].every((id) => life.kept.finds.has(id) && !life.kept.besides.has(id))).toBe(true);
    kept = life.kept;
  }
  expect(seen(kept)).toEqual(seen(all.kept));
  const less = await live(open(), asked(steps[0]), { ...nothingKept(asked(steps[0])), checkpoint: kept.checkpoint }, NEVER);
  expect(less.ended).toBe(true);
  expect(Object.keys(seen(less.kept).finds).length).toBeGreaterThan(0);
});
