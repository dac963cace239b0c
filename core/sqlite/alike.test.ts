import initSqlJs from "sql.js";
import { describe, expect, test } from "vitest";
import { allRows, columnsOf } from "../../test/kept-databases.ts";
import { memorySource } from "../bytes/memory-source.ts";
import type { Row } from "./rows/row.ts";

/** Databases by the SQLite library that keep one table of the same columns for each conversation, as messengers do. */
const SQL = await initSqlJs();
const TALKS = 14;

interface Made {
  readonly bytes: Uint8Array;
  /** Texts by table: those that are there, and those that were deleted. */
  readonly live: ReadonlyMap<string, ReadonlySet<string>>;
  readonly deleted: ReadonlyMap<string, ReadonlySet<string>>;
}

/** Every talk gets rows in turn, some are deleted, a few talks are dropped with all of theirs, and others grow over their pages. */
function talks(seed: number): Made {
  const db = new SQL.Database();
  db.run("PRAGMA page_size = 1024; PRAGMA secure_delete = OFF");
  const live = new Map<string, Set<string>>();
  const deleted = new Map<string, Set<string>>();
  const put = (name: string, row: number) => {
    const text = `${name} says ${row}: ${"the fox carries the lantern home ".repeat(1 + ((row * 7 + seed) % 3))}`;
    db.run(`INSERT INTO ${name} (at, way, body) VALUES (?, ?, ?)`, [1_760_000_000_000 + row * 61_000 + seed, row % 2, text]);
    live.get(name)?.add(text);
  };
  for (let talk = 0; talk < TALKS; talk++) {
    const name = `talk_${talk}`;
    live.set(name, new Set());
    deleted.set(name, new Set());
    db.run(`CREATE TABLE ${name} (id INTEGER PRIMARY KEY, at INTEGER NOT NULL, way INTEGER NOT NULL, body TEXT)`);
  }
  db.run("BEGIN");
  for (let row = 0; row < 40; row++) for (let talk = 0; talk < TALKS; talk++) put(`talk_${talk}`, row);
  db.run("COMMIT");
  for (let talk = 0; talk < TALKS; talk++) {
    const name = `talk_${talk}`;
    const some = talk % 5 === 3 ? "1" : `(id * 7 + ${talk + seed}) % 5 = 0`;
    for (const [body] of db.exec(`SELECT body FROM ${name} WHERE ${some}`)[0]?.values ?? []) {
      live.get(name)?.delete(String(body));
      deleted.get(name)?.add(String(body));
    }
    db.run(`DELETE FROM ${name} WHERE ${some}`);
  }
  for (let row = 100; row < 116; row++) for (let talk = 0; talk < TALKS; talk += 4) put(`talk_${talk}`, row);
  const bytes = db.export();
  db.close();
  return { bytes, live, deleted };
}

const tablesOf = ({ table, among }: Row): string[] => (among ?? [table]).map(({ name }) => name);

describe("tables of one shape", () => {
  test.each([1, 2, 3])("an erased row is of its own table, or all that it may be of are named (database %i)", async (seed) => {
    const { bytes, live, deleted } = talks(seed);
    const rows = (await allRows({ main: memorySource(bytes, "talks.db") }))?.rows ?? [];
    const whole = rows.filter(({ state, condition }) => state === "erased" && condition === "whole");
    const all = [...deleted.values()].reduce((sum, { size }) => sum + size, 0);
    expect(whole.length).toBeGreaterThan(all / 3);
    for (const row of whole) {
      const body = String(columnsOf(row).body);
      const owner = [...deleted].find(([, texts]) => texts.has(body))?.[0];
      expect(owner, body).toBeDefined();
      expect(tablesOf(row)).toContain(owner);
    }
    // Each is told once, and none that is there is told erased.
    expect(new Set(whole.map((row) => columnsOf(row).body)).size).toBe(whole.length);
    const there = rows.filter(({ state }) => state === "present").map((row) => `${row.table.name} ${columnsOf(row).body}`);
    for (const [name, texts] of live) for (const text of texts) expect(there).toContain(`${name} ${text}`);
  });

  test("what was freed among a table's own cells names that table alone", async () => {
    const { bytes, deleted } = talks(4);
    const rows = (await allRows({ main: memorySource(bytes, "talks.db") }))?.rows ?? [];
    const freed = rows.filter(({ state, evidence }) => state === "erased" && evidence[0].what === "freeblock");
    expect(freed.length).toBeGreaterThan(20);
    // Of talks that lost all their rows the pages were freed as a whole: they say nothing of whose they were.
    const emptied = [3, 8, 13].flatMap((talk) => [...(deleted.get(`talk_${talk}`) ?? [])]);
    const ofEmptied = (row: Row) => emptied.includes(String(columnsOf(row).body));
    expect(freed.filter((row) => row.among !== undefined && !ofEmptied(row)).map((row) => columnsOf(row).body)).toEqual([]);
    expect(rows.some(({ among }) => among !== undefined)).toBe(true);
  });
});

describe("what nothing tells erased", () => {
  test("a row of which the page is missing, met in another place, is unclear, whole and not called erased", async () => {
    const db = new SQL.Database();
    db.run("PRAGMA page_size = 512; CREATE TABLE notes (id INTEGER PRIMARY KEY, at INTEGER, body TEXT)");
    const add = (id: number) =>
      db.run("INSERT INTO notes VALUES (?, ?, ?)", [id, 1_760_000_000_000 + id * 1000, `note ${id}: the bell is in the van`]);
    // In no order pages are split again and again, and keep what they gave away.
    for (let step = 0; step < 401; step++) if ((step * 151) % 401 > 0) add((step * 151) % 401);
    const bytes = db.export();
    db.close();
    const sound = (await allRows({ main: memorySource(bytes, "notes.db") }))?.rows ?? [];
    expect(sound.filter(({ state }) => state === "present")).toHaveLength(400);
    expect(sound.filter(({ state }) => state !== "present")).toEqual([]);
    for (let page = 8; page < bytes.length / 512; page += 7) bytes.fill(0, page * 512, (page + 1) * 512);
    const rows = (await allRows({ main: memorySource(bytes, "notes.db") }))?.rows ?? [];
    expect(rows.filter(({ state }) => state === "erased")).toEqual([]);
    const unclear = rows.filter(({ state }) => state === "unclear");
    expect(unclear.length).toBeGreaterThan(0);
    const texts = new Set(rows.filter(({ state }) => state === "present").map((row) => columnsOf(row).body));
    for (const row of unclear) expect(texts).not.toContain(columnsOf(row).body);
  });
});

test("a table without row ids is found where no schema is left, and an index is not taken for one", async () => {
  const db = new SQL.Database();
  db.run(`PRAGMA page_size = 512;
    CREATE TABLE marks (talk TEXT NOT NULL, who TEXT NOT NULL, mark TEXT, at TEXT, PRIMARY KEY (talk, who)) WITHOUT ROWID;
    CREATE TABLE lines (id INTEGER PRIMARY KEY, at INTEGER, who TEXT, body TEXT);
    CREATE INDEX lines_at ON lines (who, body, at)`);
  for (let row = 0; row < 200; row++) {
    db.run("INSERT INTO marks VALUES (?, ?, ?, ?)", [`talk ${row % 9}`, `person ${row}`, "♥", `2026-05-0${1 + (row % 9)}T18:20:40`]);
    db.run("INSERT INTO lines VALUES (?, ?, ?, ?)", [row, 1_760_000_000_000 + row, `person ${row}`, `line ${row} of the puppet play`]);
  }
  const bytes = db.export();
  db.close();
  // The first page, and with it the schema's root.
  bytes.fill(0x11, 0, 512);
  const rows = (await allRows({ main: memorySource(bytes, "marks.db") }))?.rows ?? [];
  const present = rows.filter(({ state }) => state === "present");
  const marks = present.filter(({ table }) => table.withoutRowid);
  expect(new Set(marks.map(({ table }) => table.name)).size).toBe(1);
  expect(marks.map(({ values }) => values.slice(0, 2).join(" ")).sort()).toEqual(
    Array.from({ length: 200 }, (_, row) => `talk ${row % 9} person ${row}`).sort(),
  );
  expect(present.filter(({ table }) => !table.withoutRowid)).toHaveLength(200);
});
