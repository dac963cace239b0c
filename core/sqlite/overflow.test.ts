import { execFileSync, spawn } from "node:child_process";
import { copyFileSync, mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, describe, expect, test } from "vitest";
import { allRows, columnsOf } from "../../test/kept-databases.ts";
import { said } from "../../test/said.ts";
import { memorySource } from "../bytes/memory-source.ts";
import { readWal } from "./files/wal.ts";
import type { Row } from "./rows/row.ts";

/** Long rows and logs by the stock sqlite3 program ("Database File Format" §1.6, §4). */
const folder = mkdtempSync(join(tmpdir(), "jubar-overflow-"));
afterAll(() => rmSync(folder, { recursive: true }));
const LETTERS = 9000;
/** A long text that says whose it is again and again, in SQL and as it is read. */
const long = (word: string, length = LETTERS) => `substr(replace(hex(zeroblob(${length})), '00', 'the ${word} '), 1, ${length})`;
const text = (word: string, length = LETTERS) => `the ${word} `.repeat(length).slice(0, length);
/** The three pages that the filler leaves are the list of free ones: its trunk and two that the long row of `chat` takes, and gives back. */
const BEFORE = `PRAGMA page_size=4096; PRAGMA secure_delete=OFF;
  CREATE TABLE chat(id INTEGER PRIMARY KEY, thread INTEGER, address TEXT, at INTEGER, type INTEGER, seen INTEGER, body TEXT); CREATE TABLE notes(id INTEGER PRIMARY KEY, at INTEGER, body TEXT);
  WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i+1 FROM n WHERE i<40) INSERT INTO chat SELECT i,3,'+40700000101',1790000000+i,1,0,'message number '||i FROM n;
  INSERT INTO notes VALUES (1,1790000000,${long("piano", 5000)}); INSERT INTO notes VALUES (2,1790000001,${long("filler", 13_000)}); DELETE FROM notes WHERE id=2;
  INSERT INTO chat VALUES (47,3,'+40700000101',1790000047,1,0,${long("crocodile")}); INSERT INTO chat VALUES (48,3,'+40700000101',1790000048,1,0,'behind it'); DELETE FROM chat WHERE id=47;`;

async function bodiesAfter(name: string, sql: string): Promise<{ present: string[]; erased: string[] }> {
  const path = join(folder, name);
  execFileSync("sqlite3", [path], { input: BEFORE + sql });
  expect(execFileSync("sqlite3", [path, "PRAGMA integrity_check"]).toString().trim()).toBe("ok");
  const rows = (await allRows({ main: memorySource(new Uint8Array(readFileSync(path))) }))?.rows ?? [];
  const bodies = (state: Row["state"]) =>
    rows
      .filter((row) => row.state === state)
      .flatMap((row) => [row.values, ...row.versions.map(({ values }) => values)].map((one) => String(one.at(-1))));
  return { present: bodies("present"), erased: bodies("erased") };
}
const mixed = (texts: readonly string[], word: string) =>
  texts.filter((one) => one.includes("the crocodile") && one.includes(`the ${word}`));

describe("an erased row whose long text went on in other pages", () => {
  test("comes back whole while they are free", async () => {
    expect((await bodiesAfter("free.db", "")).erased).toContain(text("crocodile"));
  });

  test("does not go on in what a living row keeps there now", async () => {
    const { present, erased } = await bodiesAfter("living.db", `INSERT INTO notes VALUES (3,1790000002,${long("moon rig")});`);
    expect(present).toContain(text("moon rig"));
    expect(erased).not.toContain(text("crocodile"));
    expect(mixed(erased, "moon rig")).toEqual([]);
  });

  test("does not go on in a chain that is longer than its own was", async () => {
    const length = LETTERS + 4092;
    const { erased } = await bodiesAfter(
      "longer.db",
      `INSERT INTO notes VALUES (3,1790000002,${long("moon rig", length)}); DELETE FROM notes WHERE id=1; DELETE FROM notes WHERE id=3;`,
    );
    expect(erased.some((one) => one.startsWith("the crocodile"))).toBe(true);
    expect(mixed(erased, "moon rig")).toEqual([]);
  });
});

test("what a transaction wrote into the log before it was broken off is no row that stands", async () => {
  const path = join(folder, "log.db");
  execFileSync("sqlite3", [path], { input: "PRAGMA journal_mode=WAL; CREATE TABLE t(id INTEGER PRIMARY KEY, body TEXT);" });
  const program = spawn("sqlite3", [path]);
  // A cache of few pages makes the program write into the log before the transaction ends.
  program.stdin.write(
    `PRAGMA wal_autocheckpoint=0; PRAGMA cache_size=2; INSERT INTO t VALUES (1,'committed'); BEGIN; UPDATE t SET body='never committed';
     WITH RECURSIVE n(i) AS (SELECT 2 UNION ALL SELECT i+1 FROM n WHERE i<400) INSERT INTO t SELECT i, 'never committed '||hex(randomblob(200)) FROM n;\n.print ready\n`,
  );
  await said(program.stdout, "ready");
  for (const ending of ["", "-wal"]) copyFileSync(`${path}${ending}`, join(folder, `held.db${ending}`));
  program.kill("SIGKILL");
  const [main, log] = ["", "-wal"].map((ending) => new Uint8Array(readFileSync(join(folder, `held.db${ending}`))));
  const frames = (await readWal(memorySource(log)))?.frames ?? [];
  const last = frames.findLastIndex(({ pagesAfter }) => pagesAfter > 0);
  expect(last).toBeGreaterThanOrEqual(0);
  expect(frames.length).toBeGreaterThan(last + 5);
  expect(frames.findLastIndex(({ current }) => current)).toBe(last);
  const rows = (await allRows({ main: memorySource(main), wal: memorySource(log) }))?.rows ?? [];
  expect(rows.filter(({ state }) => state === "present").map(columnsOf)).toEqual([{ id: 1, body: "committed" }]);
});
