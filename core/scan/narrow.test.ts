import { expect, test } from "vitest";
import { BREAK_MEDIA } from "../../test/break-media.ts";
import { broken, type Kept, live, NEVER, nothingKept, seen } from "../../test/breaks.ts";
import type { ByteSource } from "../bytes/source.ts";
import { EVERYTHING_THERE, type Scope } from "./scope.ts";

const DEEP = { depth: "deep", ...EVERYTHING_THERE } as const;
const SCOPES: readonly Scope[] = [
  { kinds: ["photo"], erasedOnly: false },
  { kinds: ["database"], erasedOnly: false },
  { kinds: ["video", "document"], erasedOnly: true },
  { kinds: null, erasedOnly: true },
];
const asked = (scope: Scope) => ({ depth: "deep", ...scope }) as const;
const named = ({ kinds, erasedOnly }: Scope): string => `${kinds?.join(" and ") ?? "everything"}${erasedOnly ? ", erased only" : ""}`;

/** The source, and how many bytes of it were read. */
function counted(source: ByteSource): { source: ByteSource; bytes: () => number } {
  let bytes = 0;
  const read = (offset: number, length: number) => {
    bytes += length;
    return source.read(offset, length);
  };
  return { source: { ...source, read }, bytes: () => bytes };
}

async function readBy(
  open: () => ByteSource,
  scope: Scope,
  from: Kept = nothingKept(asked(scope)),
): Promise<{ kept: Kept; bytes: number }> {
  const { source, bytes } = counted(open());
  const { kept, ended } = await live(source, asked(scope), from, NEVER);
  expect(ended).toBe(true);
  return { kept, bytes: bytes() };
}

test.each(BREAK_MEDIA)(
  "%s: narrowed and widened later it is everything at once, and costs little more",
  async (_, open) => {
    const all = await readBy(open, EVERYTHING_THERE);
    const wanted = seen(all.kept);
    for (const scope of SCOPES) {
      const narrow = await readBy(open, scope);
      const told = Object.values(seen(narrow.kept).finds);
      const isAskedFor = ({ kind, state }: (typeof told)[number]) =>
        (scope.kinds?.includes(kind) ?? true) && (!scope.erasedOnly || state !== "present" || kind === "database");
      expect(new Set(told.map(({ id }) => id)), named(scope)).toEqual(
        new Set(Object.values(wanted.finds).flatMap((find) => (isAskedFor(find) ? [find.id] : []))),
      );
      // What it told is what the wide scan tells of it, but for what that learned of it elsewhere.
      for (const { id, condition, extents } of told) expect({ condition, extents }, id).toEqual(pick(wanted.finds[id]));
      expect(narrow.bytes, named(scope)).toBeLessThanOrEqual(all.bytes);
      const rest = await readBy(open, EVERYTHING_THERE, narrow.kept);
      expect(seen(rest.kept), named(scope)).toEqual(wanted);
      expect(rest.bytes, named(scope)).toBeLessThan(all.bytes);
    }
  },
  300_000,
);

const pick = ({ condition, extents }: { condition: string; extents: readonly unknown[] }) => ({ condition, extents });

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
