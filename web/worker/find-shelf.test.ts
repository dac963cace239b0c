import "fake-indexeddb/auto";
import { beforeEach, expect, test } from "vitest";
import { EVERYTHING } from "../../core/finds/find-index.ts";
import { aFind } from "../../test/finds.ts";
import { addJob, database, loadJob, removeJob } from "../kept/database.ts";
import { blankJob, newScan } from "../kept/job.ts";
import { FindShelf } from "./find-shelf.ts";

const source = { kind: "file", name: "card.img", size: 100, sample: "00" } as const;
const blank = { ...blankJob(), source };
const many = (count: number) =>
  Array.from({ length: count }, (_, number) =>
    aFind({ id: `f${number}`, name: `SISK${number}.JPG`, extents: [{ offset: number * 4096, length: 10 }] }),
  );
const keep = async (shelf: FindShelf) => void (await database.chunks.bulkPut(shelf.takeDirty()));

beforeEach(async () => {
  await database.jobs.clear();
  await database.chunks.clear();
});

test("what was put and kept is there again when the shelf is opened anew, changes too", async () => {
  const shelf = await FindShelf.open(1);
  for (const find of many(1300)) await shelf.put(find);
  await keep(shelf);
  await shelf.patch({ id: "f777", condition: "damaged", evidence: [{ pass: "sweep", what: "its content", at: 7 }] });
  await shelf.put(aFind({ id: "f1300", name: "last.jpg" }));
  await keep(shelf);
  const again = await FindShelf.open(1);
  expect(again.index.length).toBe(1301);
  expect(await again.get("f777")).toMatchObject({ condition: "damaged", evidence: [{ what: "its content" }] });
  expect((await again.get("f1300"))?.name).toBe("last.jpg");
  expect([...again.index.ask({ ...EVERYTHING, conditions: ["damaged"] }).rows]).toEqual([777]);
  expect(await again.patch({ id: "nobody", evidence: [] })).toBeNull();
});

test("only what changed is written again", async () => {
  const shelf = await FindShelf.open(1);
  for (const find of many(1300)) await shelf.put(find);
  await keep(shelf);
  await shelf.patch({ id: "f1", evidence: [{ pass: "sweep", what: "again", at: 1 }] });
  expect(shelf.takeDirty().map(({ number }) => number)).toEqual([0]);
  expect(shelf.takeDirty()).toEqual([]);
});

test("shelves of two jobs do not mix, and a removed job leaves nothing behind", async () => {
  const [one, two] = [await addJob({ ...blank, scan: newScan() }), await addJob({ ...blank, scan: newScan() })];
  for (const [job, count] of [
    [one, 5],
    [two, 600],
  ]) {
    const shelf = await FindShelf.open(job);
    for (const find of many(count)) await shelf.put(find);
    await keep(shelf);
  }
  await removeJob(two);
  expect((await FindShelf.open(one)).index.length).toBe(5);
  expect((await FindShelf.open(two)).index.length).toBe(0);
  expect(await database.chunks.count()).toBe(1);
  expect(await loadJob(two)).toBeNull();
});

test("tickets are numbered on, whatever was removed", async () => {
  const ids = [await addJob({ ...blank, scan: newScan() }), await addJob({ ...blank, scan: newScan() })];
  const numbers = await Promise.all(ids.map(async (id) => (await loadJob(id))?.number));
  expect(numbers).toEqual(["0101", "0102"]);
  await removeJob(ids[0]);
  const next = await addJob({ ...blank, scan: newScan() });
  expect((await loadJob(next))?.number).toBe("0103");
});

test("a kept chunk that is no longer understood is an error, not a silent loss", async () => {
  await database.chunks.put({ job: 1, number: 0, finds: [{ ...aFind({ id: "a" }), size: -4 }] });
  await expect(FindShelf.open(1)).rejects.toThrow();
});
