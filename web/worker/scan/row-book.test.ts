import { EVERYTHING_THERE } from "../../../core/scan/scope.ts";
import "fake-indexeddb/auto";
import { afterEach, beforeAll, beforeEach, expect, test } from "vitest";
import { blobSource } from "../../../core/bytes/blob-source.ts";
import { patientSource } from "../../../core/bytes/patient-source.ts";
import type { Find } from "../../../core/finds/find.ts";
import type { FoundRecord } from "../../../core/finds/record.ts";
import type { RowColumns } from "../../../core/sqlite/rows/row-columns.ts";
import { databaseCard, smallDatabaseCard } from "../../../test/break-media.ts";
import { aFind } from "../../../test/finds.ts";
import { allRows, DATABASES, databaseBytes, sourcesOfBytes } from "../../../test/kept-databases.ts";
import { addMedium, emptyDatabase, fullAfter, keptFinds, Tab, ticketOf } from "../../../test/tab.ts";
import { installBrowser } from "../../../test/web-locks.ts";
import { database } from "../../kept/database.ts";
import { CHUNK_ROWS } from "../../kept/kept-rows.ts";
import { removeMedia } from "../../kept/removal.ts";
import { keptRows } from "../reading/kept-rows.ts";
import { TableDesk } from "../reading/table-desk.ts";
import type { TableInfo } from "../reading/tables-protocol.ts";
import { RowBook } from "./row-book.ts";

installBrowser();
const NEVER = new AbortController().signal;
let card: File;
let small: File;
const tabs: Tab[] = [];
const open = async (job: number): Promise<Tab> => {
  const tab = await Tab.open(job);
  tabs.push(tab);
  return tab;
};
beforeAll(() => {
  card = new File([databaseCard().bytes as BlobPart], "card.img");
  small = new File([smallDatabaseCard() as BlobPart], "small.img");
});
beforeEach(emptyDatabase);
afterEach(async () => {
  for (const tab of tabs.splice(0)) await tab.close();
});

/** All that a person can see of a database: its tables, and every row of each. */
async function everything(
  file: File,
  find: Find,
  set: readonly Find[],
  kept: RowColumns | null,
): Promise<{ info: TableInfo; rows: FoundRecord[] }[]> {
  const source = patientSource(blobSource(file, file.name));
  const desk = await TableDesk.open(find, set, source, kept, NEVER, () => {});
  const all: { info: TableInfo; rows: FoundRecord[] }[] = [];
  for (const info of desk.tables()) {
    const { total } = await desk.ask({ table: info.name, states: [], edited: false, words: "", sort: null });
    all.push({ info, rows: await desk.window(0, total) });
  }
  return all;
}

/** What is kept of a medium's rows is what reading its databases anew gives. */
async function expectKept(medium: number, file: File): Promise<number> {
  const finds = [...(await keptFinds(medium)).values()];
  let databases = 0;
  for (const find of finds.filter(({ format }) => format === "sqlite")) {
    const set = finds.filter(({ path }) => path === find.path || path === `${find.path}-wal` || path === `${find.path}-journal`);
    const anew = await everything(file, find, set, null);
    if (anew.length === 0) continue;
    const kept = await keptRows(medium, find.id);
    expect(kept, find.path ?? find.id).not.toBeNull();
    expect(await everything(file, find, set, kept)).toEqual(anew);
    databases++;
  }
  return databases;
}

test("rows of every database of a scan are kept once, and read from there and from the medium they are what reading it anew gives", {
  timeout: 120_000,
}, async () => {
  const { job, media } = await ticketOf(card);
  const tab = await open(job);
  await tab.session.start({ depth: "deep", ...EVERYTHING_THERE });
  const { rows } = await tab.until(media[0], "done");
  expect(await expectKept(media[0], card)).toBeGreaterThanOrEqual(3);
  const stores = await database.stores.toArray();
  const entriesAndStrays = 2000;
  expect(stores.reduce((sum, store) => sum + store.rows, 0)).toBeGreaterThan(rows.present + rows.erased - entriesAndStrays);
  // A living row takes its place in flat columns, and none of its values.
  for (const { medium, find, number, state } of await database.rows.toArray()) {
    const rests = (await database.rests.get([medium, find, number]))?.rests.size ?? 0;
    expect(rests).toBeLessThanOrEqual([...state].filter((one) => one !== 0).length + 200);
  }
});

test("kept in steps of any size, in whatever page, no row is kept twice and none is lost", async () => {
  const all = (await allRows(sourcesOfBytes(databaseBytes("calllog"))))?.rows ?? [];
  const many = Array.from({ length: Math.ceil(10_000 / all.length) }, () => all).flat();
  const find = aFind({ id: "e1" });
  let at = 0;
  for (const step of [1, 700, 4095, 1, 0, 3000, many.length]) {
    // Another page, which knows only what was kept.
    const book = new RowBook(1, 0);
    const rows = many.slice(at, at + step);
    for (let from = 0; from < rows.length; from += 500) await book.take({ find, rows: rows.slice(from, from + 500) });
    at += rows.length;
    if (at === many.length) book.close();
    const kept = book.step();
    // Rows that were told of meanwhile go with the next step.
    await database.stores.bulkPut([...kept.stores]);
    await database.rows.bulkPut([...kept.chunks]);
    await database.rests.bulkPut([...kept.rests]);
    book.settle(kept);
    if (at < many.length) expect(await keptRows(1, "e1")).toBeNull();
  }
  const kept = await keptRows(1, "e1");
  expect(kept?.length).toBe(many.length);
  expect(many.map(({ evidence: [{ at }] }) => at)).toEqual(many.map((_, row) => kept?.placeOf(row).at));
  expect(await database.rows.count()).toBe(Math.ceil(many.length / CHUNK_ROWS));
});

test("a scan over everything anew puts its rows in the place of the old ones; with the medium they go", async () => {
  const { job, media } = await ticketOf(small);
  const other = await addMedium(job, new File([databaseBytes(DATABASES[0]).main as BlobPart], "calendar.db"));
  const tab = await open(job);
  await tab.session.start({ depth: "quick", ...EVERYTHING_THERE });
  await tab.until(media[0], "done");
  const before = (await database.rows.toArray()).length;
  await database.stores.put({ medium: media[0], find: "gone", scan: 99, tables: [], rows: 1, complete: true });
  await tab.session.start({ depth: "deep", ...EVERYTHING_THERE });
  await tab.until(media[0], "running");
  await tab.until(media[0], "done");
  expect(await database.stores.get([media[0], "gone"])).toBeUndefined();
  expect((await database.rows.toArray()).length).toBeGreaterThanOrEqual(before);
  expect(await expectKept(media[0], small)).toBeGreaterThanOrEqual(2);
  await removeMedia([media[0]]);
  expect(await database.stores.where({ medium: media[0] }).count()).toBe(0);
  expect(await database.rows.where({ medium: media[0] }).count()).toBe(0);
  expect(await database.rests.where({ medium: media[0] }).count()).toBe(0);
  expect(await database.media.get(other)).toBeDefined();
});

test("no room among the rows: the step is not half there, and goes on once there is", async () => {
  const { job, media } = await ticketOf(small);
  const tab = await open(job);
  await tab.session.start({ depth: "quick", ...EVERYTHING_THERE });
  while (tab.scan(media[0]).progress.pass !== "databases") await new Promise((later) => setTimeout(later, 1));
  const room = fullAfter(0);
  await tab.until(media[0], "held");
  room();
  await tab.session.start({ depth: "quick", ...EVERYTHING_THERE });
  await tab.until(media[0], "done");
  expect(await expectKept(media[0], small)).toBeGreaterThanOrEqual(2);
});

test("rows that cannot be understood, or are not all there, are not used: the database is read anew", async () => {
  const { job, media } = await ticketOf(small);
  const tab = await open(job);
  await tab.session.start({ depth: "quick", ...EVERYTHING_THERE });
  await tab.until(media[0], "done");
  const [store] = (await database.stores.toArray()).sort((a, b) => b.rows - a.rows);
  const key: [number, string] = [media[0], store.find];
  await database.stores.put({ ...store, rows: store.rows + 1 });
  expect(await keptRows(...key)).toBeNull();
  await database.stores.put({ ...store, complete: false });
  expect(await keptRows(...key)).toBeNull();
  await database.stores.put({ ...store, tables: [{ name: 7 }] as never });
  expect(await keptRows(...key)).toBeNull();
  await database.stores.put(store);
  expect((await keptRows(...key))?.length).toBe(store.rows);
});
