import { expect, test } from "vitest";
import { createStore } from "zustand";
import { EVERYTHING, type Query } from "../../core/finds/find-query.ts";
import type { Found } from "../worker/finds/protocol.ts";
import type { Desks } from "./desks.ts";
import { Looking } from "./looking.ts";
import type { SessionState } from "./session-state.ts";

const found = (key: string) => ({ key }) as Found;

const answering = (keys: readonly string[]) => ({
  ask: async ({ words }: Query) => ({ total: keys.filter((key) => key.includes(words)).length }),
  placeInAnswer: async (key: string) => keys.indexOf(key),
  window: async (from: number, to: number) => keys.slice(from, to).map(found),
});

/** A ticket whose answer is a row of finds, and whose previews are words that are given when they are told to be. */
function bench(keys: readonly string[] = [], written: readonly string[] = []) {
  const drawn = new Map<string, () => void>();
  const desks = {
    index: answering(keys),
    reading: {
      written: answering(written),
      preview: ({ key }: Found) => new Promise((done) => drawn.set(key, () => done({ word: `picture of ${key}` }))),
    },
  } as unknown as Desks;
  const store = createStore<SessionState>(() => ({ answer: { total: keys.length }, query: EVERYTHING, behind: null }) as SessionState);
  return { looking: new Looking(store, desks), drawn, store };
}
const settled = () => new Promise((done) => setTimeout(done, 0));

test("a preview that two places show is drawn as long as one of them does, whichever asked first", async () => {
  const { looking, drawn } = bench();
  // Four are under way: what comes now waits.
  for (const key of ["a", "b", "c", "d"]) void looking.preview(found(key), 320);
  const inTray = looking.preview(found("x"), 320);
  void looking.preview(found("x"), 320);
  looking.leave(found("x"), 320);
  drawn.get("a")?.();
  await settled();
  drawn.get("x")?.();
  expect(await inTray).toEqual({ word: "picture of x" });
});

test("when nobody shows it any more it is not drawn; who asks again is given it", async () => {
  const { looking, drawn } = bench();
  for (const key of ["a", "b", "c", "d"]) void looking.preview(found(key), 320);
  for (let asker = 0; asker < 2; asker++) void looking.preview(found("x"), 320);
  for (let asker = 0; asker < 2; asker++) looking.leave(found("x"), 320);
  drawn.get("a")?.();
  await settled();
  expect(drawn.has("x")).toBe(false);
  const again = looking.preview(found("x"), 320);
  await settled();
  drawn.get("x")?.();
  expect(await again).toEqual({ word: "picture of x" });
});

test("neighbours in the answer: forwards, backwards, no further than it goes, and the first where one is not in it", async () => {
  const { looking } = bench(["a", "b", "c"]);
  const from = async (key: string | null, by: number) => (await looking.neighbour(key === null ? null : found(key), by))?.find.key;
  expect(await from("a", 1)).toBe("b");
  expect(await from("b", -1)).toBe("a");
  expect(await from("b", 40)).toBe("c");
  expect(await from("a", -5)).toBe("a");
  expect(await from("gone", 1)).toBe("a");
  expect(await from(null, 1)).toBe("a");
  expect(await looking.neighbour(found("c"), -1)).toMatchObject({ place: 1 });
  expect(await bench([]).looking.neighbour(null, 1)).toBeNull();
});

test("what was written is looked at in place of the ticket's finds, which are as they were afterwards", async () => {
  const { looking, store } = bench(["a", "b", "ba", "c"], ["b, written"]);
  await looking.ask({ words: "b" });
  store.setState({ selected: found("ba") });
  await looking.lookAt("what was written");
  expect(store.getState()).toMatchObject({ answer: { total: 1 }, query: EVERYTHING, selected: null });
  expect((await looking.window(0, 5)).map(({ key }) => key)).toEqual(["b, written"]);
  expect(await looking.placeOf("ba")).toBe(-1);
  // Asked twice it stays what it is.
  await looking.lookAt("what was written");
  await looking.ask({ words: "nothing" });
  expect(store.getState().answer?.total).toBe(0);
  await looking.lookAt("the ticket");
  expect(store.getState()).toMatchObject({ answer: { total: 2 }, query: { words: "b" }, selected: found("ba"), behind: null });
  expect(await looking.placeOf("ba")).toBe(2);
});
