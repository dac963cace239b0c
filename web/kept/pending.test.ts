import "fake-indexeddb/auto";
import { beforeEach, expect, test } from "vitest";
import { blankIntake } from "../../core/triage/intake.ts";
import { addJob, database, loadJob } from "./database.ts";
import { blankJob } from "./job.ts";
import { forgetPending, notePending, settlePending } from "./pending.ts";

/** A page that is gone before the database took what was answered: the next one finds it. */
class Shelf {
  readonly texts = new Map<string, string>();
  full = false;
  getItem = (key: string) => this.texts.get(key) ?? null;
  removeItem = (key: string) => void this.texts.delete(key);
  setItem(key: string, text: string) {
    if (this.full) throw new DOMException("no room", "QuotaExceededError");
    this.texts.set(key, text);
  }
}
let shelf = new Shelf();
let id = 0;
beforeEach(async () => {
  shelf = new Shelf();
  await database.jobs.clear();
  id = await addJob(blankJob());
});

test("what was noted and never reached the database is there after a reload, and noted no longer", async () => {
  notePending(shelf, id, { customer: "Ana Dorin", intake: { ...blankIntake(), card: "yes" } });
  notePending(shelf, id, { device: "Corvane Siskin 3" });
  await settlePending(shelf, id);
  expect(await loadJob(id)).toMatchObject({ customer: "Ana Dorin", device: "Corvane Siskin 3", intake: { card: "yes" } });
  expect(shelf.texts.size).toBe(0);
});

test("what the database took is forgotten; a newer answer of the same part stays noted", () => {
  notePending(shelf, id, { customer: "An" });
  notePending(shelf, id, { customer: "Ana" });
  forgetPending(shelf, id, { customer: "An" });
  expect(JSON.parse([...shelf.texts.values()][0])).toEqual({ customer: "Ana" });
  forgetPending(shelf, id, { customer: "Ana" });
  expect(shelf.texts.size).toBe(0);
});

test.each([
  ["no text", "{"],
  ["a part that no job has", JSON.stringify({ source: null, number: "9999" })],
  ["a part of another shape", JSON.stringify({ intake: { card: "maybe" } })],
])("%s is dropped, and the ticket opens as it was kept", async (_, text) => {
  shelf.texts.set(`jubar pending ${id}`, text);
  const before = await loadJob(id);
  await settlePending(shelf, id);
  expect(await loadJob(id)).toEqual(before);
  expect(shelf.texts.size).toBe(0);
});

test("a shelf without room keeps nothing and breaks nothing", () => {
  shelf.full = true;
  notePending(shelf, id, { customer: "Ana" });
  expect(shelf.texts.size).toBe(0);
});
