import { EVERYTHING_THERE } from "../../../core/scan/scope.ts";
import "fake-indexeddb/auto";
import { afterEach, beforeEach, expect, test } from "vitest";
import type { FoundRecord } from "../../../core/finds/record.ts";
import { databaseBytes } from "../../../test/kept-databases.ts";
import { addMedium, emptyDatabase, Tab, ticketOf } from "../../../test/tab.ts";
import { installBrowser } from "../../../test/web-locks.ts";
import { database } from "../../kept/database.ts";
import { ENTRIES_A_PACK } from "../../kept/kept-people.ts";
import { Line } from "../../kept/news.ts";
import { removeMedia } from "../../kept/removal.ts";
import { PeopleBook } from "./people-book.ts";

installBrowser();
const tabs: Tab[] = [];
const open = async (job: number): Promise<Tab> => {
  const tab = await Tab.open(job);
  tabs.push(tab);
  return tab;
};
beforeEach(emptyDatabase);
afterEach(async () => {
  for (const tab of tabs.splice(0)) await tab.close();
});

const calls = () => new File([databaseBytes("calllog").main as BlobPart], "calllog.db");
const call = (id: number, database: string | null = "e0"): FoundRecord => ({
  id: `e0.${id}~call`,
  kind: "call",
  state: "present",
  condition: "whole",
  database,
  table: null,
  rowid: null,
  columns: {},
  evidence: [],
  values: { number: String(id), at: "2024-05-02T18:00:00.000Z" },
  store: "calls",
  rows: [],
});
const idsKept = async () => (await database.people.toArray()).flatMap(({ entries }) => entries.map(({ id }) => id)).sort();

test("a scan keeps what people mean by rows; the index counts it, finds it by a number, and hands it out; with the medium it goes", async () => {
  const { job, media } = await ticketOf(calls());
  const tab = await open(job);
  await tab.session.start({ depth: "deep", ...EVERYTHING_THERE });
  const { rows } = await tab.until(media[0], "done");
  const { people } = tab.index;
  await expect.poll(() => people.counts.call).toBeGreaterThan(1400);
  // Rows are counted as rows, and what is made of them not once more.
  expect(rows.present + rows.erased).toBeLessThan(people.counts.call * 1.5);
  await expect.poll(() => tab.session.store.getState().people.counts.call).toBe(people.counts.call);
  // Read anew it is there all the while: nobody sees their calls go to none.
  const { counts } = people;
  const again = people.reread(media);
  expect(people.counts).toEqual(counts);
  await again;
  expect(people.counts).toEqual(counts);
  const all = people.ask({ kind: "call", states: [], words: "" });
  expect(all.states).toMatchObject({ present: 1193, binned: 6 });
  const [first] = await people.window(0, 1);
  const { number = "" } = first.values as { number?: string };
  expect(people.ask({ kind: "call", states: [], words: number }).total).toBeGreaterThan(0);
  await tab.session.choose([first.key], true);
  expect(tab.session.store.getState().traySum).toMatchObject({ count: 1, people: { call: 1 } });
  // Another page of the same ticket has it as well.
  const other = await open(job);
  expect(other.index.people.counts).toEqual(people.counts);
  expect((await other.index.peopleOf([first.key])).entries).toHaveLength(1);
  await removeMedia([media[0]]);
  expect(await database.people.count()).toBe(0);
});

test("a scan over everything anew tells each entry once, and what it does not tell of any more goes", async () => {
  const { job, media } = await ticketOf(calls());
  await addMedium(job, new File(["nothing"], "notes.txt"));
  const tab = await open(job);
  const told: (readonly string[] | null)[] = [];
  const line = new Line((notice) => {
    if (notice.type === "kept") told.push(notice.people);
  });
  await tab.session.start({ depth: "quick", ...EVERYTHING_THERE });
  await tab.until(media[0], "done");
  const before = await idsKept();
  // Nothing went: who shows a million entries of other media reads none of them again.
  expect(told.flat()).not.toEqual([]);
  expect(told).not.toContain(null);
  await database.people.put({ medium: media[0], find: "gone", number: 0, scan: 99, entries: [] });
  await tab.session.start({ depth: "deep", ...EVERYTHING_THERE });
  await tab.until(media[0], "running");
  await tab.until(media[0], "done");
  line.close();
  expect(told).toContain(null);
  expect(await idsKept()).toEqual(before);
  await expect.poll(() => tab.index.people.counts.call).toBe(before.length);
  expect(new Set(before).size).toBe(before.length);
  expect(await database.people.get([media[0], "gone", 0])).toBeUndefined();
});

test("kept in steps of any size, in whatever page, no entry is kept twice and none is lost", async () => {
  let at = 0;
  for (const step of [1, 700, ENTRIES_A_PACK - 1, 0, 1, 1300]) {
    // Another page, which knows only what was kept.
    const book = new PeopleBook(1, 0);
    await book.take(Array.from({ length: step }, (_, index) => call(at + index)));
    at += step;
    const kept = book.step();
    await database.people.bulkPut([...kept.packs]);
    book.settle(kept);
    expect(book.step().packs).toEqual([]);
  }
  expect(await idsKept()).toEqual(Array.from({ length: at }, (_, id) => `e0.${id}~call`).sort());
  expect(await database.people.count()).toBe(Math.ceil(at / ENTRIES_A_PACK));
});

test("what comes while a step is being kept goes with the next one; rows and what is of no find", async () => {
  const book = new PeopleBook(1, 0);
  await book.take([call(1)]);
  const first = book.step();
  await book.take([call(2), call(3, null), { ...call(4), kind: "row", values: undefined }]);
  book.settle(first);
  const second = book.step();
  expect(second.packs.map(({ find, entries }) => [find, entries.length])).toEqual([
    ["e0", 2],
    ["", 1],
  ]);
  expect(second.fresh).toEqual([""]);
});
