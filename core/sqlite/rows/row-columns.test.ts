import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, expect, test } from "vitest";
import { allRows, columnsOf, DATABASES, databaseBytes, sourcesOfBytes } from "../../../test/kept-databases.ts";
import { memorySource } from "../../bytes/memory-source.ts";
import { DatabaseFiles, type DatabaseSources } from "../files/database-files.ts";
import type { Row } from "./row.ts";
import { RowColumns } from "./row-columns.ts";
import { RowReader } from "./row-reader.ts";

/** Rows that are kept as their places are, read again, what they were: on databases by the real SQLite library. */
const folder = mkdtempSync(join(tmpdir(), "jubar-columns-"));
afterAll(() => rmSync(folder, { recursive: true }));

const toldOf = (row: Row) => ({
  table: row.table,
  state: row.state,
  condition: row.condition,
  rowid: row.rowid,
  values: row.values,
  evidence: row.evidence,
  versions: row.versions,
  among: row.among,
});

async function expectSame(sources: DatabaseSources, through: (columns: RowColumns) => RowColumns = (same) => same): Promise<Row[]> {
  const rows = (await allRows(sources))?.rows ?? [];
  const files = await DatabaseFiles.open(sources);
  if (!files) throw new Error("it is no database");
  const columns = new RowColumns();
  for (const row of rows) columns.put(row);
  const kept = through(columns);
  const reader = new RowReader(files);
  expect(kept.length).toBe(rows.length);
  for (const [number, row] of rows.entries()) expect(toldOf(await reader.row(kept, number))).toEqual(toldOf(row));
  return rows;
}

test.each(DATABASES)("%s: every row, present, erased and edited, from log and journal too", async (name) => {
  const rows = await expectSame(sourcesOfBytes(databaseBytes(name)));
  expect(new Set(rows.map(({ state }) => state)).size).toBeGreaterThan(1);
});

test("through chunks of any size, as a browser's database gives them back", async () => {
  await expectSame(sourcesOfBytes(databaseBytes("external")), (columns) => {
    const back = new RowColumns(structuredClone(columns.tables), 1);
    for (let at = 0; at < columns.length; at += 37)
      back.append(structuredClone(columns.chunk(at, at + 37)), structuredClone(columns.rests(at, at + 37)));
    return back;
  });
});

test("row ids beyond what a number holds exactly, long rows in overflow pages, tables without row ids, bytes and nothing", async () => {
  const path = join(folder, "odd.db");
  execFileSync("sqlite3", [path], {
    input: `CREATE TABLE far(id INTEGER PRIMARY KEY, body TEXT);
      INSERT INTO far VALUES (9007199254740993,'one more than exact'),(-9223372036854775808,'the least'),(1,NULL);
      CREATE TABLE long(a TEXT, b BLOB); INSERT INTO long VALUES (printf('%.*c',30000,'x'), randomblob(9000)), ('short', x'00ff');
      CREATE TABLE pairs(a TEXT, b INTEGER, PRIMARY KEY(a,b)) WITHOUT ROWID; INSERT INTO pairs VALUES ('lamp',1),('lamp',2),('rope',7);`,
  });
  const rows = await expectSame({ main: memorySource(new Uint8Array(readFileSync(path))) });
  expect(rows.map(({ rowid }) => rowid)).toContain(9007199254740993n);
  expect(rows.map(columnsOf)).toContainEqual({ a: "rope", b: 7 });
});

test("two questions at once are answered each with its own row", async () => {
  const sources = sourcesOfBytes(databaseBytes("calllog"));
  const rows = (await allRows(sources))?.rows ?? [];
  const files = await DatabaseFiles.open(sources);
  if (!files) throw new Error("it is no database");
  const columns = new RowColumns();
  for (const row of rows) columns.put(row);
  const reader = new RowReader(files);
  const mixed = rows.map((_, number) => (number * 37) % rows.length);
  const read = await Promise.all(mixed.map((number) => reader.row(columns, number)));
  for (const [place, number] of mixed.entries()) expect(read[place].values).toEqual(rows[number].values);
});
