import { expect, test } from "vitest";
import { BREAK_MEDIA } from "../../test/break-media.ts";
import { DEEP, live, NEVER, nothingKept, seen } from "../../test/breaks.ts";
import { asked, expectBrokenNarrow, expectNarrowAndWidened, SCOPES } from "../../test/narrowed.ts";
import { EVERYTHING_THERE, type Scope } from "./scope.ts";

/** One scope of some media; `npm run test:long` has all. */
const SOME = ["sd-formatted", "userdata-ext4-unclean", "userdata-f2fs"];
const MEDIA = BREAK_MEDIA.map(([name, open], number) => [name, open, SCOPES[number % SCOPES.length]] as const).filter(([name]) =>
  SOME.includes(name),
);

test.each(MEDIA)(
  "%s: narrowed and widened later it is everything at once, and costs little more",
  (_, open, scope) => expectNarrowAndWidened(open, [scope]),
  300_000,
);

test("a scan that is broken, narrowed and as it is widened, comes to the same end", () => expectBrokenNarrow("theatre-card", [0, 3]));

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
