import "fake-indexeddb/auto";
import { beforeEach, expect, test } from "vitest";
import type { Find } from "../../../core/finds/find.ts";
import { aFind } from "../../../test/finds.ts";
import { database } from "../../kept/database.ts";
import { FindBook, PACK_FINDS } from "./find-book.ts";

const many = (count: number, from = 0) =>
  Array.from({ length: count }, (_, number) => aFind({ id: `f${from + number}`, name: `SISK${from + number}.JPG` }));
async function keep(book: FindBook): Promise<number[]> {
  const packs = book.dirty();
  await database.packs.bulkPut(packs);
  book.settle(packs);
  return packs.map(({ number }) => number).sort((a, b) => a - b);
}
const all = async (book: FindBook): Promise<Find[]> => {
  const finds: Find[] = [];
  for await (const find of book.all()) finds.push(find);
  return finds;
};

beforeEach(() => database.packs.clear());

test("what was put and kept is there again in the order it was told, changes too", async () => {
  const book = await FindBook.open(1, 0);
  for (const find of many(1300)) await book.put(find);
  expect(await keep(book)).toEqual([0, 1, 2]);
  await book.patch({ id: "f777", condition: "damaged", evidence: [{ pass: "sweep", what: "its content", at: 7 }] });
  await book.put(aFind({ id: "f1300", name: "last.jpg" }));
  // Only what changed is written again.
  expect(await keep(book)).toEqual([1, 2]);
  const again = await FindBook.open(1, 0);
  const finds = await all(again);
  expect(finds.map(({ id }) => id)).toEqual(Array.from({ length: 1301 }, (_, number) => `f${number}`));
  expect(finds[777]).toMatchObject({ condition: "damaged", evidence: [{ what: "its content" }] });
  expect(await again.patch({ id: "nobody", evidence: [] })).toBeNull();
  expect(await again.put(aFind({ id: "f5", size: 1 }))).toMatchObject({ id: "f5", name: "SISK5.JPG" });
  expect(again.length).toBe(1301);
});

test("what was not kept stays to be kept, however much of it there is", async () => {
  const book = await FindBook.open(1, 0);
  for (const find of many(60 * PACK_FINDS)) await book.put(find);
  expect(book.dirty().length).toBe(60);
  expect(await keep(book)).toHaveLength(60);
  expect(book.dirty()).toEqual([]);
  expect((await all(await FindBook.open(1, 0))).length).toBe(60 * PACK_FINDS);
});

test("a scan that goes over everything anew begins behind the packs of the one before; two media do not mix", async () => {
  const first = await FindBook.open(1, 0);
  for (const find of many(700)) await first.put(find);
  await keep(first);
  expect([await FindBook.behind(1), await FindBook.behind(2)]).toEqual([2, 0]);
  const second = await FindBook.open(1, 2);
  expect(second.length).toBe(0);
  for (const find of many(5, 690)) await second.put(find);
  expect(await keep(second)).toEqual([2]);
  const other = await FindBook.open(2, 0);
  await other.put(aFind({ id: "f1" }));
  await keep(other);
  expect((await all(await FindBook.open(1, 2))).map(({ id }) => id)).toEqual(["f690", "f691", "f692", "f693", "f694"]);
  expect((await all(await FindBook.open(2, 0))).length).toBe(1);
});

test("what is not shown is kept too, and known as such", async () => {
  const book = await FindBook.open(1, 0);
  await book.put(aFind({ id: "shown" }));
  await book.put(aFind({ id: "own" }), true);
  await keep(book);
  expect(await database.packs.get([1, 0])).toMatchObject({ hidden: [1] });
  expect((await all(await FindBook.open(1, 0))).map(({ id }) => id)).toEqual(["shown", "own"]);
});
