import { expect, test } from "vitest";
import { Turns } from "./turns.ts";

test("one after the other, in the order they were asked for; one that fails is told so, and holds up none behind it", async () => {
  const turns = new Turns();
  const told: string[] = [];
  const step =
    (name: string, ticks: number, fails = false) =>
    async () => {
      told.push(`${name} begins`);
      for (let tick = 0; tick < ticks; tick++) await Promise.resolve();
      told.push(`${name} ends`);
      if (fails) throw new Error(name);
      return name;
    };
  const all = await Promise.allSettled([
    turns.take(step("slow", 20)),
    turns.take(step("failing", 5, true)),
    turns.take(() => told.push("at once")),
    turns.take(step("last", 0)),
  ]);
  expect(told).toEqual(["slow begins", "slow ends", "failing begins", "failing ends", "at once", "last begins", "last ends"]);
  expect(all.map(({ status }) => status)).toEqual(["fulfilled", "rejected", "fulfilled", "fulfilled"]);
});
