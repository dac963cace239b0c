import initSqlJs from "sql.js";
import { expect, test } from "vitest";
import { allRows, columnsOf } from "../../test/kept-databases.ts";
import { noise } from "../../test/pictures.ts";
import { memorySource } from "../bytes/memory-source.ts";
import { DatabaseFiles } from "./files/database-files.ts";
import { DatabaseHeader, PageHeader, PageType } from "./format/layout.ts";

/** Databases by the SQLite library, and their first page lost in part or whole ("Database File Format" §1.3, §1.6, §2.6). */
const SQL = await initSqlJs();
const TABLES = 40;
const ROWS = 60;
const WORDS = ["the wagon leaves at nine", "Лукерья пришла позже", "偶锣鼓，明天见", "moon hook and tin stars, for the spring tour"];

/** Its schema alone takes several of the smaller pages. */
function databaseOf(pageSize: number, encoding: string): Uint8Array {
  const db = new SQL.Database();
  db.run(`PRAGMA page_size = ${pageSize}; PRAGMA encoding = '${encoding}'`);
  for (let table = 0; table < TABLES; table++) {
    const columns = Array.from({ length: 6 }, (_, column) => `column_${column}_of_table_${table} TEXT DEFAULT 'as it was made'`);
    db.run(`CREATE TABLE things_${table} (_id INTEGER PRIMARY KEY, at INTEGER, body TEXT, ${columns.join(", ")})`);
    db.run("BEGIN");
    for (let row = 0; row < ROWS; row++)
      db.run(`INSERT INTO things_${table} (at, body) VALUES (?, ?)`, [1_700_000_000_000 + row * 1000, `${WORDS[row % 4]} ${table} ${row}`]);
    db.run("COMMIT");
  }
  const bytes = db.export();
  db.close();
  return bytes;
}
const damaged = (bytes: Uint8Array, length: number): Uint8Array => {
  const hurt = bytes.slice();
  hurt.set(noise(length, 5), 0);
  // Noise could be a header by chance.
  hurt[0] = 0x11;
  return hurt;
};
/** Every row as its table and text, present ones and others. */
async function told(bytes: Uint8Array): Promise<{ present: string[]; erased: number }> {
  const rows = (await allRows({ main: memorySource(bytes, "main") }))?.rows ?? [];
  const present = rows.filter(({ state, table }) => state === "present" && table.name.startsWith("things_"));
  return {
    present: present.map((row) => `${row.table.name} ${columnsOf(row).body}`).sort(),
    erased: rows.filter(({ state }) => state === "erased").length,
  };
}
const ALL = Array.from({ length: TABLES * ROWS }, (_, number) => {
  const [table, row] = [Math.floor(number / ROWS), number % ROWS];
  return `things_${table} ${WORDS[row % 4]} ${table} ${row}`;
}).sort();

const KINDS = [512, 1024, 4096, 8192, 32_768].flatMap((pageSize) =>
  (pageSize === 4096 || pageSize === 1024 ? ["UTF-8", "UTF-16le", "UTF-16be"] : ["UTF-8"]).map((encoding) => [pageSize, encoding] as const),
);

test.each(KINDS)(
  "pages of %i bytes in %s, the first hundred bytes lost: form and texts are told from the rest, every row is there, none erased",
  async (pageSize, encoding) => {
    const hurt = damaged(databaseOf(pageSize, encoding), DatabaseHeader.size);
    const files = await DatabaseFiles.open({ main: memorySource(hurt, "main") });
    expect(files).toMatchObject({ hasHeader: false, form: { pageSize }, encoding: encoding.toLowerCase() });
    expect(files?.troubles.map(({ what }) => what)).toContain(
      "the first page has no header: page size and encoding were told from the other pages",
    );
    expect(await told(hurt)).toEqual({ present: ALL, erased: 0 });
  },
);

test.each(KINDS.filter(([pageSize]) => pageSize <= 4096))(
  "pages of %i bytes in %s, all of the first page lost: what is left of the schema is found by what stands in it, and leads to every row",
  async (pageSize, encoding) => {
    const bytes = databaseOf(pageSize, encoding);
    expect(PageHeader.type(bytes, DatabaseHeader.size)).toBe(PageType.tableInterior);
    expect(await told(damaged(bytes, pageSize))).toEqual({ present: ALL, erased: 0 });
  },
);

/** Three tables of an app that nobody knows; every seventh row of two of them was erased. Its schema is one page. */
function unknownApp(encoding: string): Uint8Array {
  const db = new SQL.Database();
  db.run(`PRAGMA encoding = '${encoding}'`);
  db.run("CREATE TABLE rooms (room TEXT, subject TEXT, opened TEXT)");
  db.run("CREATE TABLE lines (_id INTEGER PRIMARY KEY, room TEXT, sender TEXT, at INTEGER, body TEXT)");
  db.run("CREATE TABLE marks (line INTEGER, at REAL, sort TEXT, extra BLOB, seen INTEGER, by TEXT)");
  db.run("CREATE INDEX by_room ON lines (room, at)");
  db.run("BEGIN");
  for (let row = 1; row <= 20; row++) db.run("INSERT INTO rooms VALUES (?, ?, ?)", [`r-${row}`, WORDS[row % 4], "2026-05-02T10:00:00Z"]);
  for (let row = 1; row <= 400; row++)
    db.run("INSERT INTO lines VALUES (?, ?, ?, ?, ?)", [
      row,
      `r-${row % 20}`,
      `who ${row % 5}`,
      1_700_000_000 + row,
      `${WORDS[row % 4]} ${row}`,
    ]);
  for (let row = 1; row <= 300; row++)
    db.run("INSERT INTO marks VALUES (?, ?, ?, ?, ?, ?)", [
      row,
      row / 8,
      "heart",
      new Uint8Array([row & 255, 7, 9]),
      row % 2,
      `who ${row}`,
    ]);
  db.run("COMMIT");
  for (const table of ["lines", "marks"]) db.run(`DELETE FROM ${table} WHERE rowid % 7 = 3`);
  const bytes = db.export();
  db.close();
  return bytes;
}

test.each(["UTF-8", "UTF-16le"])(
  "no schema is left of a database in %s, and no app is known to have such tables: rows come by numbered columns, each table by itself, living ones as living",
  async (encoding) => {
    const rows = (await allRows({ main: memorySource(damaged(unknownApp(encoding), 4096), "main") }))?.rows ?? [];
    expect(rows.every(({ table }) => table.nameless !== undefined)).toBe(true);
    const of = (state: string, width: number) =>
      rows
        .filter((row) => row.state === state && row.table.columns.length === width)
        .map((row): Record<string, unknown> => ({ rowid: row.rowid, ...columnsOf(row) }));
    const lines = of("present", 5);
    const isErased = (row: number) => row % 7 === 3;
    const all = Array.from({ length: 400 }, (_, index) => index + 1);
    expect(lines.map(({ rowid }) => rowid).sort((a, b) => Number(a) - Number(b))).toEqual(all.filter((row) => !isErased(row)));
    expect(lines.find(({ rowid }) => rowid === 5)).toEqual({
      rowid: 5,
      c0: null,
      c1: "r-5",
      c2: "who 0",
      c3: 1_700_000_005,
      c4: `${WORDS[1]} 5`,
    });
    expect(of("present", 3).length).toBe(20);
    expect(of("present", 6).length).toBe(300 - Math.ceil(298 / 7));
    expect(of("present", 6).find(({ rowid }) => rowid === 8)).toMatchObject({ c1: 1, c2: "heart", c3: new Uint8Array([8, 7, 9]) });
    expect(new Set(rows.map(({ table }) => table.name)).size).toBe(3);
    // What was erased is told as that, and nothing else is.
    const bodies = new Set(all.filter(isErased).map((row) => `${WORDS[row % 4]} ${row}`));
    const erased = of("erased", 5).filter(({ c4 }) => typeof c4 === "string" && bodies.has(c4));
    expect(erased.length).toBeGreaterThan(50);
    expect(of("erased", 5).every(({ c4 }) => typeof c4 !== "string" || bodies.has(c4))).toBe(true);
  },
);
