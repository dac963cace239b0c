import { execFileSync, spawn } from "node:child_process";
import { once } from "node:events";
import { copyFileSync, mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, describe, expect, test } from "vitest";
import { allRows, columnsOf } from "../../test/kept-databases.ts";
import { said } from "../../test/said.ts";
import { memorySource } from "../bytes/memory-source.ts";
import { DatabaseFiles } from "./files/database-files.ts";
import { journalSum, readJournal } from "./files/journal.ts";
import { readWal, walSum } from "./files/wal.ts";
import { DatabaseHeader, PointerMapEntry } from "./format/layout.ts";
import { localBytes } from "./format/page.ts";
import { readTypes, serialBytes, valueAt } from "./format/record.ts";
import { parseIndex, parseTable } from "./format/schema.ts";
import { looksLikeText } from "./format/text.ts";
import { rowidAt, varintLength, varintNumber, varintSize } from "./format/varint.ts";

const folder = mkdtempSync(join(tmpdir(), "jubar-sqlite-"));
afterAll(() => rmSync(folder, { recursive: true }));
const bytesOf = (hex: string) => new Uint8Array(Buffer.from(hex.replaceAll(" ", ""), "hex"));
/** A database by the stock sqlite3 program. */
function made(name: string, sql: string): string {
  const path = join(folder, name);
  execFileSync("sqlite3", [path], { input: sql });
  return path;
}
const read = (path: string) => new Uint8Array(readFileSync(path));

// "Database File Format" §1.6 and §2.1, its tables; edge values worked out by hand from the definition.
describe("integers and values as the format document defines them", () => {
  test.each([
    ["00", 0, 1],
    ["7f", 127, 1],
    ["8100", 128, 2],
    ["ff7f", 16_383, 2],
    ["818000", 16_384, 3],
    ["8fffffff7f", 0xffff_ffff, 5],
    ["ffffffffffffffffff", -1, 9],
  ])("%s is %d", (hex, value, length) => {
    const bytes = bytesOf(hex);
    expect(varintLength(bytes, 0, bytes.length)).toBe(length);
    expect(Number(rowidAt(bytes, 0, length))).toBe(value);
    if (length < 9) expect([varintNumber(bytes, 0, length), varintSize(value)]).toEqual([value, length]);
    expect(varintLength(bytes, 0, length - 1)).toBe(0);
  });

  test.each([
    [0, "", null],
    [1, "80", -128],
    [2, "8000", -32_768],
    [3, "800000", -8_388_608],
    [4, "80000000", -2_147_483_648],
    [5, "800000000000", -140_737_488_355_328],
    [6, "7fffffffffffffff", 9_223_372_036_854_775_807n],
    [7, "400921fb54442d18", Math.PI],
    [8, "", 0],
    [9, "", 1],
    [18, "00ff01", new Uint8Array([0, 255, 1])],
    [19, "c3a9e2", "é\ufffd"],
  ])("serial type %d", (type, hex, value) => {
    expect(valueAt(bytesOf(hex), 0, type, "utf-8")).toEqual(value);
    expect(serialBytes(type)).toBe(hex.length / 2);
  });

  test("types 10 and 11 are in no record, and a header must end where it says", () => {
    expect(readTypes(bytesOf("010a"), 0, 2, [])).toBe(false);
    expect(readTypes(bytesOf("0181"), 0, 2, [])).toBe(false);
  });

  // §1.6: U-35 for tables; ((U-12)*64/255)-23 for indexes; K as defined there.
  test("what of a payload stays in its page", () => {
    expect([localBytes(4061, true, 4096), localBytes(4062, true, 4096)]).toEqual([4061, 489]);
    expect([localBytes(1002, false, 4096), localBytes(1003, false, 4096)]).toEqual([1002, 489]);
  });

  test.each([
    ["é, 日本, 🎪", "utf-8", true],
    ["a\u0001b", "utf-8", false],
  ] as const)("%s as a text", (text, encoding, is) => {
    const bytes = new TextEncoder().encode(text);
    expect(looksLikeText(bytes, 0, bytes.length, false, encoding)).toBe(is);
    expect(looksLikeText(bytes, 0, bytes.length - 1, true, encoding)).toBe(is);
  });
});

describe("files of the stock sqlite3 program", () => {
  test("header and pointer map say what the program says", async () => {
    const path = made(
      "map.db",
      "PRAGMA page_size=1024; PRAGMA auto_vacuum=INCREMENTAL; CREATE TABLE t(a); WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i+1 FROM n WHERE i<300) INSERT INTO t SELECT hex(randomblob(40)) FROM n; DELETE FROM t WHERE rowid > 150;",
    );
    const ask = (pragma: string) => Number(execFileSync("sqlite3", [path, `PRAGMA ${pragma}`]).toString());
    const bytes = read(path);
    expect(DatabaseHeader.pageSize(bytes, 0)).toBe(1024);
    expect(DatabaseHeader.pageCount(bytes, 0)).toBe(ask("page_count"));
    expect(DatabaseHeader.freelistPages(bytes, 0)).toBe(ask("freelist_count"));
    const free = Array.from({ length: ask("page_count") - 2 }, (_, index) => PointerMapEntry.kind(bytes, 1024 + index * 5)).filter(
      (kind) => kind === 2,
    );
    expect(free).toHaveLength(ask("freelist_count"));
  });

  test("a write-ahead log is read to its last commit, and its check sums come out", async () => {
    const path = made("log.db", "PRAGMA journal_mode=WAL; CREATE TABLE t(a, b, c);");
    // The program folds the log in when it ends: it is copied while the program still holds it open.
    const program = spawn("sqlite3", [path]);
    program.stdin.write(
      "PRAGMA wal_autocheckpoint=0; INSERT INTO t VALUES (1,'first','the crocodile'); UPDATE t SET b='second'; DELETE FROM t; INSERT INTO t VALUES (2,'third','the moon rig');\n.print ready\n",
    );
    await said(program.stdout, "ready");
    for (const ending of ["", "-wal"]) copyFileSync(`${path}${ending}`, join(folder, `held.db${ending}`));
    program.stdin.end();
    await once(program, "close");
    const [main, log] = [read(join(folder, "held.db")), read(join(folder, "held.db-wal"))];
    const wal = await readWal(memorySource(log));
    expect(wal?.troubles).toEqual([]);
    expect(wal?.frames.length).toBeGreaterThanOrEqual(4);
    expect(wal?.frames.every(({ current }) => current)).toBe(true);
    expect(walSum(log.subarray(0, 24), [0, 0], (log[3] & 1) === 1)).toEqual([
      new DataView(log.buffer).getUint32(24),
      new DataView(log.buffer).getUint32(28),
    ]);
    const rows = (await allRows({ main: memorySource(main), wal: memorySource(log) }))?.rows ?? [];
    expect(rows.map((row) => [row.state, row.rowid, columnsOf(row)])).toEqual([
      ["present", 1, { a: 2, b: "third", c: "the moon rig" }],
      ["erased", 1, { a: 1, b: "second", c: "the crocodile" }],
    ]);
    expect(rows[1].versions.map(({ values }) => values)).toEqual([[1, "first", "the crocodile"]]);
    // A flipped bit in the second frame: it and all behind it count no more, and are still read.
    const broken = log.slice();
    broken[32 + 24 + 4096 + 24 + 100] ^= 1;
    expect((await readWal(memorySource(broken)))?.frames.map(({ current }) => current).filter(Boolean).length).toBeLessThan(
      wal?.frames.length ?? 0,
    );
  });

  test("an unfinished transaction is taken back from the journal, and what it deleted is there", async () => {
    const path = made(
      "hot.db",
      "PRAGMA journal_mode=PERSIST; CREATE TABLE t(a TEXT); INSERT INTO t VALUES ('the crocodile'),('the moon rig');",
    );
    const program = spawn("sqlite3", [path]);
    // A cache of one page makes the program write before the transaction ends.
    program.stdin.write(
      "PRAGMA secure_delete=ON; PRAGMA cache_size=1; BEGIN; DELETE FROM t; CREATE TABLE u AS SELECT hex(randomblob(30000)) AS x;\n.print ready\n",
    );
    await said(program.stdout, "ready");
    for (const ending of ["", "-journal"]) copyFileSync(`${path}${ending}`, join(folder, `torn.db${ending}`));
    program.kill("SIGKILL");
    const [main, kept] = [read(join(folder, "torn.db")), read(join(folder, "torn.db-journal"))];
    const journal = await readJournal(memorySource(kept), 4096, 100);
    const [first] = journal?.pages ?? [];
    expect(journalSum(kept.subarray(first.at, first.at + 4096), new DataView(kept.buffer).getUint32(12))).toBe(
      new DataView(kept.buffer).getUint32(first.at + 4096),
    );
    const rows = (await allRows({ main: memorySource(main), journal: memorySource(kept) }))?.rows ?? [];
    expect(rows.filter(({ state }) => state === "present").map(columnsOf)).toEqual([{ a: "the crocodile" }, { a: "the moon rig" }]);
  });

  test("a database without its first page, cut off, and of zeros", async () => {
    const path = made(
      "lost.db",
      `CREATE TABLE sms (_id INTEGER PRIMARY KEY,thread_id INTEGER,address TEXT,person INTEGER,date INTEGER,date_sent INTEGER DEFAULT 0,protocol INTEGER,read INTEGER DEFAULT 0,status INTEGER DEFAULT -1,type INTEGER,reply_path_present INTEGER,subject TEXT,body TEXT,service_center TEXT,locked INTEGER DEFAULT 0,sub_id INTEGER DEFAULT -1, error_code INTEGER DEFAULT 0,creator TEXT,seen INTEGER DEFAULT 0);
      WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i+1 FROM n WHERE i<200) INSERT INTO sms(_id,thread_id,address,date,type,body) SELECT i,1,'+40700000101',1690000000000+i,1,'message number '||i FROM n;`,
    );
    const whole = read(path);
    const headless = whole.slice().fill(0x5a, 0, 4096);
    const rows = (await allRows({ main: memorySource(headless) }))?.rows ?? [];
    expect(rows.filter(({ state, table }) => state === "present" && table.name === "sms")).toHaveLength(200);
    const half = await allRows({ main: memorySource(whole.slice(0, Math.floor(whole.length / 2))) });
    expect(half?.rows.length).toBeGreaterThan(50);
    expect(half?.troubles.map(({ what }) => what).join()).toMatch(/cut off/);
    expect(await DatabaseFiles.open({ main: memorySource(new Uint8Array(65_536)) })).toBeNull();
  });
});

// "CREATE TABLE" and "Datatypes In SQLite" §3.1 of the SQLite documentation.
test("statements are taken apart as the library does", () => {
  const table = parseTable(`CREATE TABLE IF NOT EXISTS "odd ""one"(
    a INTEGER PRIMARY KEY, -- the row id
    [b c] VARCHAR(20) DEFAULT 'it''s', d FLOATING POINT CHECK(d > 0), e, f AS (a + 1), g TEXT GENERATED ALWAYS AS (e) STORED,
    h STRING NOT NULL DEFAULT -1, PRIMARY KEY (a))`);
  expect(table?.columns.map(({ name, affinity, virtual }) => [name, affinity, virtual])).toEqual([
    ["a", "integer", false],
    ["b c", "text", false],
    ["d", "integer", false],
    ["e", "blob", false],
    ["f", "blob", true],
    ["g", "text", false],
    ["h", "numeric", false],
  ]);
  expect(table).toMatchObject({ name: 'odd "one', rowidColumn: 0, stored: [0, 1, 2, 3, 5, 6] });
  expect(table?.columns.map(({ preset }) => preset)).toEqual([null, "it's", null, null, null, null, -1]);
  const keyed = parseTable("CREATE TABLE k(x TEXT, y INT, z, PRIMARY KEY(y, x)) WITHOUT ROWID");
  expect(keyed).toMatchObject({ withoutRowid: true, rowidColumn: -1, stored: [1, 0, 2] });
  expect(keyed && parseIndex('CREATE UNIQUE INDEX i ON k("z" COLLATE NOCASE DESC, x) WHERE z > 1', keyed)).toEqual([2, 0]);
  expect(parseTable("CREATE VIRTUAL TABLE v USING fts4(body)")).toBeNull();
});
