import { expect } from "vitest";
import { BREAK_MEDIA } from "./break-media.ts";
import { DEEP, live, NEVER, nothingKept, seen } from "./breaks.ts";

/** Broken after every ninth batch of its databases, a worn card tells the rows of a scan that never was, each once. `most`: places tried, spread over all. */
export async function expectNoRowLost(most: number): Promise<void> {
  const source = BREAK_MEDIA.find(([name]) => name === "worn card of databases")?.[1]();
  if (!source) throw new Error("no such medium");
  const whole = await live(source, DEEP, nothingKept(DEEP), NEVER);
  const wanted = seen(whole.kept).records;
  const places = [...whole.passes.keys()].filter((batch) => whole.passes[batch] === "databases" && batch % 9 === 0);
  const step = Math.max(1, places.length / most);
  let broke = 0;
  for (let at = 0; at < places.length; at += step) {
    const batch = places[Math.floor(at)];
    const { kept } = await live(source, DEEP, nothingKept(DEEP), { how: "stopped", after: batch + 1, keepEvery: 1 });
    const rest = await live(source, DEEP, kept, NEVER);
    expect(seen(rest.kept).records, `after batch ${batch}`).toEqual(wanted);
    expect(rest.again).toBe(0);
    broke++;
  }
  expect(broke).toBeGreaterThanOrEqual(3);
}
