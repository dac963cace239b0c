import { expect, test } from "vitest";
import { PixelGate } from "./pixel-gate.ts";

test("small pictures are drawn beside each other, one that fills the room alone, all in their order", async () => {
  const gate = new PixelGate(100);
  const log: string[] = [];
  let most = 0;
  let inside = 0;
  const draw = (name: string, pixels: number) =>
    gate.through(pixels, async () => {
      inside += Math.min(100, pixels);
      most = Math.max(most, inside);
      log.push(name);
      await new Promise((done) => setTimeout(done, 5));
      inside -= Math.min(100, pixels);
    });
  await Promise.all([draw("a", 40), draw("b", 40), draw("large", 100), draw("huge", 5000), draw("c", 10), draw("d", 90)]);
  expect(log).toEqual(["a", "b", "large", "huge", "c", "d"]);
  expect(most).toBe(100);
});

test("a picture that fails to be drawn leaves its room to the next", async () => {
  const gate = new PixelGate(10);
  const failing = gate.through(10, () => Promise.reject(new Error("no picture")));
  const next = gate.through(10, async () => "drawn");
  await expect(failing).rejects.toThrow("no picture");
  expect(await next).toBe("drawn");
});
