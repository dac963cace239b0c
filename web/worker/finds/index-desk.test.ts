import "fake-indexeddb/auto";
import { afterEach, beforeEach, expect, test } from "vitest";
import type { Find } from "../../../core/finds/find.ts";
import { EVERYTHING } from "../../../core/finds/find-query.ts";
import { aFind } from "../../../test/finds.ts";
import { cardFile, emptyDatabase, ticketOf } from "../../../test/tab.ts";
import { database } from "../../kept/database.ts";
import { Line } from "../../kept/news.ts";
import { IndexDesk } from "./index-desk.ts";

const BY_NAME = { ...EVERYTHING, sort: "name" } as const;
const line = new Line();
let desk = new IndexDesk();
beforeEach(async () => {
  await emptyDatabase();
  desk = new IndexDesk();
});
afterEach(() => desk.close());

const named = (id: string, name: string, own: Partial<Find> = {}): Find => aFind({ id, name, ...own });
const keep = (medium: number, number: number, finds: Find[], hidden: number[] = []) =>
  database.packs.put({ medium, number, finds, hidden });
const twoMedia = async () => {
  const { job, media } = await ticketOf(cardFile("card.img"), cardFile("old.img"));
  return { job, card: media[0], old: media[1] };
};
const names = async (from = 0, to = 1000): Promise<(string | null)[]> => (await desk.window(from, to)).map(({ name }) => name);

test("a window of an answer is its finds in their order, whatever packs and media they lie in; places and keys are those of the same answer", async () => {
  const { job, card, old } = await twoMedia();
  // More packs than are kept in memory, so that each window has to fetch its own.
  for (let pack = 0; pack < 90; pack++)
    await keep(pack % 2 === 0 ? card : old, pack, [
      named(`f${pack}`, `p${String(179 - pack).padStart(3, "0")}.jpg`),
      named(`g${pack}`, `p${String(pack).padStart(3, "0")}.jpg`),
    ]);
  expect(await desk.open(job, () => {})).toBe(180);
  expect(desk.ask(BY_NAME)).toMatchObject({ total: 180, groups: null });
  const all = Array.from({ length: 180 }, (_, number) => `p${String(number).padStart(3, "0")}.jpg`);
  expect(await names()).toEqual(all);
  expect(await names(37, 120)).toEqual(all.slice(37, 120));
  expect(await names(170, 999)).toEqual(all.slice(170));
  const keys = desk.answerKeys();
  expect(keys[0]).toBe(`${card}:g0`);
  expect(keys[1]).toBe(`${old}:g1`);
  for (const place of [0, 1, 89, 90, 179]) {
    expect(desk.placeInAnswer(keys[place])).toBe(place);
    expect(await desk.find(keys[place])).toMatchObject({ key: keys[place], name: all[place], places: [] });
  }
  desk.ask({ ...BY_NAME, media: [old] });
  expect(desk.placeInAnswer(`${card}:g0`)).toBe(-1);
  expect(desk.placeInAnswer("99:nobody")).toBe(-1);
  expect(await desk.find("99:nobody")).toBeNull();
  expect((await desk.findsOf([keys[5], "99:nobody", keys[2]])).map(({ name }) => name)).toEqual([all[5], all[2]]);
});

test("the sum of a choice: how many, how large, of which kinds, and how many are hurt; what is gone does not count", async () => {
  const { job, card, old } = await twoMedia();
  await keep(card, 0, [named("a", "a.jpg", { size: 100 }), named("b", "b.mp4", { kind: "video", size: 70, condition: "damaged" })]);
  await keep(old, 0, [named("a", "c.jpg", { size: 5, condition: "remnant" }), named("d", "d.jpg", { size: 9, condition: "small copy" })]);
  await desk.open(job, () => {});
  expect(desk.sumOf([`${card}:a`, `${card}:b`, `${old}:a`, `${old}:d`, `${old}:gone`])).toEqual({
    count: 4,
    bytes: 184,
    damaged: 2,
    people: {},
    kinds: { photo: 3, video: 1 },
  });
  expect(desk.sumOf([])).toEqual({ count: 0, bytes: 0, damaged: 0, kinds: {}, people: {} });
});

test("packs that a scan keeps are heard of and merged; what a scan before had told goes with its packs, what is told again stays", async () => {
  const { job, card } = await twoMedia();
  await keep(card, 0, [named("a", "a.jpg"), named("b", "b.jpg")], [1]);
  const told: number[] = [];
  await desk.open(job, (generation) => told.push(generation));
  desk.ask(BY_NAME);
  expect(await names()).toEqual(["a.jpg"]);
  await keep(card, 1, [named("a", "a anew.jpg"), named("c", "c.jpg")]);
  line.say({ type: "kept", job, medium: card, packs: [1], firstPack: 1, people: [] });
  await expect.poll(() => desk.ask(BY_NAME).total).toBe(2);
  expect(await names()).toEqual(["a anew.jpg", "c.jpg"]);
  await expect.poll(() => told.length).toBeGreaterThan(0);
  expect(told.length).toBeLessThan(3);
  // Nothing of another ticket is heard.
  await keep(card, 2, [named("d", "d.jpg")]);
  line.say({ type: "kept", job: job + 1, medium: card, packs: [2], firstPack: 0, people: [] });
  line.say({ type: "kept", job, medium: card, packs: [], firstPack: 0, people: [] });
  await new Promise((later) => setTimeout(later, 30));
  expect(desk.ask(BY_NAME).total).toBe(2);
});

test("a pack that is written anew between question and window: what is not where it was is left out, never another find in its place", async () => {
  const { job, card } = await twoMedia();
  await keep(card, 0, [named("a", "a.jpg"), named("b", "b.jpg"), named("c", "c.jpg")]);
  await desk.open(job, () => {});
  desk.ask(BY_NAME);
  await keep(card, 0, [named("a", "a.jpg"), named("x", "x.jpg")]);
  expect(await names()).toEqual(["a.jpg"]);
});

test("a medium that is set aside is not asked; taken up again, its finds are back, with what was learned of their content", async () => {
  const { job, card, old } = await twoMedia();
  await keep(card, 0, [named("a", "a.jpg")]);
  await keep(old, 0, [named("a", "same.jpg")]);
  await database.hashes.bulkPut([card, old].map((medium) => ({ medium, find: "a", sha256: "f".repeat(64) })));
  await desk.open(job, () => {});
  // One thing in two places is shown once.
  expect(desk.ask(BY_NAME)).toMatchObject({ total: 1, all: 1 });
  expect((await desk.window(0, 1))[0].places).toHaveLength(1);
  await database.media.update(old, { aside: true });
  line.say({ type: "media", job });
  await expect.poll(async () => await desk.find(`${old}:a`)).toBeNull();
  expect(desk.ask(BY_NAME).total).toBe(1);
  expect((await desk.window(0, 1))[0]).toMatchObject({ medium: card, places: [] });
  // What was chosen of it is not given back while it lies aside.
  expect(desk.sumOf([`${card}:a`, `${old}:a`]).count).toBe(1);
  await database.media.update(old, { aside: false });
  line.say({ type: "media", job });
  await expect.poll(async () => (await desk.find(`${old}:a`))?.places).toEqual([`${card}:a`]);
  expect(desk.twins()).toEqual([]);
});

test("a database is opened with the log that lies beside it on its own medium, and with no other's", async () => {
  const { job, card, old } = await twoMedia();
  const base = { kind: "database", format: "sqlite", state: "present" } as const;
  const log = { kind: "other", format: "sqlite-wal", state: "present" } as const;
  await keep(card, 0, [named("m", "calls.db", { ...base, path: "/data/calls.db" })]);
  await keep(card, 1, [named("w", "calls.db-wal", { ...log, path: "/data/calls.db-wal" })]);
  await keep(old, 0, [named("w", "calls.db-wal", { ...log, path: "/data/calls.db-wal" })]);
  await desk.open(job, () => {});
  expect((await desk.beside(`${card}:m`)).map(({ id }) => id)).toEqual(["m", "w"]);
  // A log without its database is looked at by itself.
  expect(new Set((await desk.beside(`${old}:w`)).map(({ id }) => id))).toEqual(new Set(["w"]));
  expect(await desk.beside(`${card}:nobody`)).toEqual([]);
});

test("words of a want that no file is called by narrow nothing: all of its kind and days count, and how many answer fully is said", async () => {
  const { job, card } = await twoMedia();
  await keep(card, 0, [named("a", "SISK0380.JPG"), named("b", "SISK0381.JPG"), named("c", "letter.txt", { kind: "document" })]);
  await desk.open(job, () => {});
  const want = (words: string, kind: "photos" | "any kind" = "photos") => ({ kind, from: null, to: null, who: "", words }) as const;
  // Nothing but words that nothing is called by asks for nothing.
  const wants = [want("the spring tour"), want("sisk0381"), want(""), want("the spring tour", "any kind")];
  expect(await desk.countWants(wants)).toEqual([
    { files: 0, loose: 2, people: 0 },
    { files: 1, loose: 0, people: 0 },
    { files: 2, loose: 0, people: 0 },
    { files: 0, loose: 0, people: 0 },
  ]);
  expect(await desk.wantsOf([`${card}:a`, `${card}:b`, `${card}:c`], wants)).toEqual([[0, 2], [0, 1, 2], []]);
});
