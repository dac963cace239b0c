import { expect, test } from "vitest";
import { PreviewQueue } from "./preview-queue.ts";

/** Pictures that are drawn when they are told to be. */
function studio() {
  const begun: string[] = [];
  const finish = new Map<string, { done: (what: string) => void; fail: (cause: Error) => void }>();
  const draw = (key: string) => () =>
    new Promise<string>((done, fail) => {
      begun.push(key);
      finish.set(key, { done, fail });
    });
  return { begun, draw, finish };
}
const settled = () => new Promise((done) => setTimeout(done, 0));

test("a few at once; then what was asked for last comes first, since that is in sight", async () => {
  const { begun, draw, finish } = studio();
  const queue = new PreviewQueue<string>();
  const asked = ["a", "b", "c", "d", "e", "f"].map((key) => queue.ask(key, draw(key)));
  expect(begun).toEqual(["a", "b", "c", "d"]);
  finish.get("b")?.done("B");
  expect(await asked[1]).toBe("B");
  await settled();
  expect(begun).toEqual(["a", "b", "c", "d", "f"]);
});

test("what is out of sight before its turn is never drawn; what is under way is finished", async () => {
  const { begun, draw, finish } = studio();
  const queue = new PreviewQueue<string>();
  const asked = new Map(["a", "b", "c", "d", "e"].map((key) => [key, queue.ask(key, draw(key))]));
  expect(queue.drop("e")).toBe(true);
  expect(await asked.get("e")).toBeNull();
  expect(queue.drop("a")).toBe(false);
  for (const key of begun) finish.get(key)?.done(key);
  expect(await asked.get("a")).toBe("a");
  await settled();
  expect(begun).toEqual(["a", "b", "c", "d"]);
});

test("one that fails is told to who asked, and makes room for the next", async () => {
  const { begun, draw, finish } = studio();
  const queue = new PreviewQueue<string>();
  const asked = ["a", "b", "c", "d", "e"].map((key) => queue.ask(key, draw(key)));
  finish.get("c")?.fail(new Error("broken"));
  await expect(asked[2]).rejects.toThrow("broken");
  await settled();
  expect(begun.at(-1)).toBe("e");
});
