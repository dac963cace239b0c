import { expect, test } from "vitest";
import { BREAK_MEDIA } from "../../test/break-media.ts";
import { broken, DEEP, live, NEVER, nothingKept, seen } from "../../test/breaks.ts";
import { expectNoRowLost } from "../../test/broken-databases.ts";

test("the worn card of databases, broken again and again, comes to the same end as if it never were", async () => {
  const source = BREAK_MEDIA.find(([name]) => name === "worn card of databases")?.[1]();
  if (!source) throw new Error("no such medium");
  const whole = await live(source, DEEP, nothingKept(DEEP), NEVER);
  for (const seed of [1, 2]) {
    const { kept, breaks } = await broken(source, DEEP, seed, whole);
    expect(seen(kept), `seed ${seed}: ${JSON.stringify(breaks)}`).toEqual(seen(whole.kept));
  }
}, 600_000);

test("broken at places all over the databases: no row is lost, told twice, or comes back from a stray page", async () => {
  await expectNoRowLost(Number.POSITIVE_INFINITY);
}, 600_000);
