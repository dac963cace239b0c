import { expect } from "vitest";
import type { ByteSource } from "../core/bytes/source.ts";
import { EVERYTHING_THERE, type Scope } from "../core/scan/scope.ts";
import { BREAK_MEDIA } from "./break-media.ts";
import { broken, DEEP, type Kept, live, NEVER, nothingKept, seen } from "./breaks.ts";

/** Scans that are narrowed before they start, and widened later. */
export const SCOPES: readonly Scope[] = [
  { kinds: ["photo"], erasedOnly: false },
  { kinds: ["database"], erasedOnly: false },
  { kinds: ["video", "document"], erasedOnly: true },
  { kinds: null, erasedOnly: true },
];
export const asked = (scope: Scope) => ({ depth: "deep", ...scope }) as const;
export const named = ({ kinds, erasedOnly }: Scope): string =>
  `${kinds?.join(" and ") ?? "everything"}${erasedOnly ? ", erased only" : ""}`;

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

const pick = ({ condition, extents }: { condition: string; extents: readonly unknown[] }) => ({ condition, extents });

/** Each narrow scan tells what the wide one tells of it and reads no more; widened, it is the wide one, for fewer bytes. */
export async function expectNarrowAndWidened(open: () => ByteSource, scopes: readonly Scope[]): Promise<void> {
  const all = await readBy(open, EVERYTHING_THERE);
  const wanted = seen(all.kept);
  for (const scope of scopes) {
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
}

/** Broken while it is narrowed, and again while it is widened, a scan comes to the end of one that never was. `scopes`: which of SCOPES. */
export async function expectBrokenNarrow(name: string, scopes: readonly number[]): Promise<void> {
  const open = BREAK_MEDIA.find((one) => one[0] === name)?.[1];
  if (!open) throw new RangeError(`no such medium: ${name}`);
  const wanted = seen((await live(open(), DEEP, nothingKept(DEEP), NEVER)).kept);
  for (const number of scopes) {
    const scope = SCOPES[number];
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
