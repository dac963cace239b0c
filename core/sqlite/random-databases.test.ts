import fc from "fast-check";
import initSqlJs, { type Database, type SqlValue } from "sql.js";
import { expect, test } from "vitest";
import { allRows, columnsOf } from "../../test/kept-databases.ts";
import { memorySource } from "../bytes/memory-source.ts";
import type { Row } from "./rows/row.ts";

const SQL = await initSqlJs();

/** Tables of all kinds: with and without row ids, keys in the middle, generated columns, columns added later. */
const TABLES = [
  "CREATE TABLE t0 (_id INTEGER PRIMARY KEY, who TEXT, at INTEGER, body TEXT, extra BLOB)",
  "CREATE TABLE t1 (who TEXT NOT NULL, at INTEGER, id INTEGER PRIMARY KEY AUTOINCREMENT, body TEXT, amount REAL)",
  "CREATE TABLE t2 (who TEXT, body TEXT, at INTEGER, PRIMARY KEY (body, who)) WITHOUT ROWID",
  "CREATE TABLE t3 (a, b NUMERIC, body TEXT, twice INTEGER GENERATED ALWAYS AS (length(body) * 2) STORED)",
] as const;
const WRITTEN = [
  ["who", "at", "body", "extra"],
  ["who", "at", "body", "amount"],
  ["who", "body", "at"],
  ["a", "b", "body"],
] as const;

const text = fc.oneof(
  fc.constantFrom("Ana Dorin", "Ilse", "Лукерья", "偶锣鼓", "", "🎪🎭 wagon"),
  fc.lorem({ maxCount: 60 }),
  fc.string({ unit: "grapheme", maxLength: 900 }).map((one) => one.replaceAll("\0", "")),
);
const value = fc.oneof(
  text,
  fc.integer(),
  fc.integer({ min: 1_600_000_000_000, max: 1_900_000_000_000 }),
  fc.double({ noNaN: true, noDefaultInfinity: true }),
  fc.uint8Array({ maxLength: 2000 }),
  fc.constant(null),
);
const moment = fc.integer({ min: 1_600_000_000_000, max: 1_900_000_000_000 });
/** What apps write into typed columns; the fourth table's hold anything at all. */
const TYPED = {
  who: text,
  at: moment,
  body: text,
  extra: fc.option(fc.uint8Array({ maxLength: 2000 })),
  amount: fc.option(fc.double({ min: 0, max: 1e6, noNaN: true })),
  a: value,
  b: value,
};
const operationsOf = (shape: 0 | 1 | 2 | 3) => {
  const row = fc.tuple(...WRITTEN[shape].map((column) => (shape === 3 ? value : TYPED[column]) as fc.Arbitrary<SqlValue>));
  const part = fc.integer({ min: 2, max: 7 });
  return fc.array(
    fc.oneof(
      { weight: 8, arbitrary: fc.record({ kind: fc.constant("insert" as const), rows: fc.array(row, { minLength: 8, maxLength: 50 }) }) },
      { weight: 3, arbitrary: fc.record({ kind: fc.constant("delete" as const), part }) },
      { weight: 2, arbitrary: fc.record({ kind: fc.constant("update" as const), part, body: text }) },
      { weight: 1, arbitrary: fc.record({ kind: fc.constant("alter" as const) }) },
    ),
    { minLength: 2, maxLength: 14 },
  );
};
const shaped = fc
  .constantFrom(0 as const, 1 as const, 2 as const, 3 as const)
  .chain((shape) => fc.tuple(fc.constant(shape), operationsOf(shape)));

const plain = (one: unknown): string =>
  one instanceof Uint8Array
    ? `bytes ${Buffer.from(one).toString("hex")}`
    : one === null || one === undefined
      ? "null"
      : `${typeof one === "bigint" ? "number" : typeof one} ${one}`;
const line = (names: readonly string[], values: readonly unknown[], without?: string): string =>
  names.flatMap((name, index) => (name === without ? [] : [`${name}=${plain(values[index])}`])).join("|");

/** All rows as the library itself gives them. */
function rowsOf(db: Database): { names: string[]; values: SqlValue[][] } {
  const [result] = db.exec("SELECT * FROM t");
  return result ? { names: result.columns, values: result.values } : { names: [], values: [] };
}
const namedOf = (row: Row) => {
  const columns = columnsOf(row);
  return { names: Object.keys(columns), values: Object.values(columns) };
};

// Against the real library (SQLite compiled to WebAssembly): what it reads is what is told as present, whatever the columns hold;
// and in tables whose columns hold what they are declared for, nothing is told as erased and whole that was never there.
test("databases of random tables and operations", async () => {
  let erased = 0;
  await fc.assert(
    fc.asyncProperty(
      shaped,
      fc.constantFrom(512, 1024, 4096, 65_536),
      fc.constantFrom("UTF-8", "UTF-16le", "UTF-16be"),
      fc.constantFrom(0, 1, 2),
      async ([shape, operations], pageSize, encoding, vacuum) => {
        const db = new SQL.Database();
        db.run(`PRAGMA page_size=${pageSize}; PRAGMA encoding='${encoding}'; PRAGMA auto_vacuum=${vacuum}; PRAGMA secure_delete=OFF;`);
        db.run(TABLES[shape].replace(/t\d/, "t"));
        const key = shape === 0 ? "_id" : shape === 1 ? "id" : undefined;
        /** Every content that any row ever had, the key left out, with the columns that it had then. */
        const ever = new Set<string>();
        let altered = 0;
        for (const step of operations) {
          if (step.kind === "insert")
            for (const row of step.rows)
              db.run(`INSERT OR IGNORE INTO t (${WRITTEN[shape].join()}) VALUES (${row.map(() => "?").join()})`, row);
          else if (step.kind === "delete") db.run(`DELETE FROM t WHERE length(hex(body)) % ${step.part} = 1 OR length(hex(body)) % 5 = 0`);
          else if (step.kind === "update")
            db.run(`UPDATE OR IGNORE t SET body = ? WHERE length(hex(body)) % ${step.part} = 0`, [step.body]);
          else db.run(`ALTER TABLE t ADD COLUMN later${altered++} TEXT DEFAULT 'it''s new'`);
          const { names, values } = rowsOf(db);
          for (const one of values) ever.add(line(names, one, key));
        }
        const { names, values } = rowsOf(db);
        const file = db.export();
        db.close();
        const told = (await allRows({ main: memorySource(file) }))?.rows.filter(({ table }) => table.name === "t") ?? [];
        const present = told.filter(({ state }) => state === "present").map(namedOf);
        expect(present.map((one) => line(one.names, one.values)).sort()).toEqual(values.map((one) => line(names, one)).sort());
        if (shape === 3) return;
        for (const row of told.filter(({ state, condition }) => state === "erased" && condition === "whole")) {
          const { names: known, values: those } = namedOf(row);
          const whole = line(known, those, key);
          erased++;
          // A row from before a column was added is told with what that column would have shown.
          expect(
            [...ever].some((one) => one === whole || whole.startsWith(`${one}|later`)),
            whole,
          ).toBe(true);
        }
      },
    ),
    { numRuns: 60, seed: 5 },
  );
  // The property must have had something to hold against what was there.
  expect(erased).toBeGreaterThan(100);
});
