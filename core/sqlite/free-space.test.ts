import fc from "fast-check";
import initSqlJs from "sql.js";
import { describe, expect, test } from "vitest";
import { noise } from "../../test/pictures.ts";
import { PageHeader } from "./format/layout.ts";
import { btreePage, cellAt, cellEnd, gapsOf, headerAt, type PageForm } from "./format/page.ts";
import { bodyBytes, readTypes } from "./format/record.ts";
import { parseTable } from "./format/schema.ts";
import { mayBeFreeBlock } from "./free-space/headless.ts";
import { BitTable } from "./rows/bit-table.ts";
import { contentKey } from "./rows/content-key.ts";
import { strongPrint } from "./rows/strong-print.ts";
import { TableFit } from "./tables/fit.ts";

/** The quick ways of looking at free space, held against the slow and plain ones, and against the page's own account of itself. */
const SQL = await initSqlJs();

/** Rows of all lengths, a third of them deleted, some of those written over: in pages of one size. */
function pagesOf(pageSize: number, seed: number): { pages: Uint8Array[]; form: PageForm } {
  const db = new SQL.Database();
  db.run(
    `PRAGMA page_size = ${pageSize}; PRAGMA secure_delete = OFF; CREATE TABLE t (id INTEGER PRIMARY KEY, at INTEGER, body TEXT); CREATE INDEX i ON t (body)`,
  );
  const add = (id: number) =>
    db.run("INSERT OR REPLACE INTO t VALUES (?, ?, ?)", [id, 1_760_000_000_000 + id, "lantern ".repeat(1 + ((id * 7 + seed) % 19))]);
  db.run("BEGIN");
  for (let step = 1; step < 900; step++) add((step * 211 + seed) % 907);
  db.run("COMMIT");
  db.run(`DELETE FROM t WHERE (id * 13 + ${seed}) % 3 = 0`);
  for (let id = 1000; id < 1060; id++) add(id);
  const bytes = db.export();
  db.close();
  const count = bytes.length / pageSize;
  return {
    pages: Array.from({ length: count }, (_, page) => bytes.subarray(page * pageSize, (page + 1) * pageSize)),
    form: { pageSize, usable: pageSize },
  };
}

describe.each([512, 1024, 4096])("pages of %i bytes", (pageSize) => {
  // "Database File Format" §1.6: free blocks are chained from the header; what is too short for one is counted as fragments.
  test("what lies free among cells is as much as the page's own free blocks and fragments", () => {
    let seen = 0;
    for (let seed = 0; seed < 4; seed++) {
      const { pages, form } = pagesOf(pageSize, seed);
      for (const [index, bytes] of pages.entries()) {
        const header = headerAt(index + 1);
        const page = btreePage(bytes, form, header);
        if (!page) continue;
        const blocks: { from: number; to: number }[] = [];
        for (let at = PageHeader.firstFreeblock(bytes, header); at > 0; at = (bytes[at] << 8) | bytes[at + 1]) {
          const size = (bytes[at + 2] << 8) | bytes[at + 3];
          // A row takes five bytes at least: a block of four is none that a row could have been in.
          expect(mayBeFreeBlock(bytes, at, form.usable)).toBe(size > 4);
          blocks.push({ from: at, to: at + size });
        }
        const gaps = gapsOf(bytes, page, form, 1).filter(({ unallocated }) => !unallocated);
        const bytesOf = (stretches: readonly { from: number; to: number }[]) => stretches.reduce((sum, { from, to }) => sum + to - from, 0);
        expect(bytesOf(gaps)).toBe(bytesOf(blocks) + PageHeader.fragmentedBytes(bytes, header));
        for (const { from, to } of blocks) expect(gaps.some((gap) => gap.from <= from && to <= gap.to)).toBe(true);
        seen += blocks.length;
      }
    }
    expect(seen).toBeGreaterThan(100);
  });

  test("gaps and cells together are the page, and none overlaps another", () => {
    const { pages, form } = pagesOf(pageSize, 9);
    for (const [index, bytes] of pages.entries()) {
      const page = btreePage(bytes, form, headerAt(index + 1));
      if (!page) continue;
      const used = new Uint8Array(pageSize);
      used.fill(1, 0, page.pointersEnd);
      for (let cell = 0; cell < page.cells; cell++)
        used.fill(1, cellAt(bytes, page, cell, form), cellEnd(bytes, cellAt(bytes, page, cell, form), page, form));
      for (const { from, to } of gapsOf(bytes, page, form, 1)) {
        expect(used.subarray(from, to).every((byte) => byte === 0)).toBe(true);
        used.fill(1, from, to);
      }
      expect(used.every((byte) => byte === 1)).toBe(true);
    }
  });
});

const fitOf = (sql: string): TableFit => {
  const table = parseTable(sql);
  if (!table) throw new Error(`no table: ${sql}`);
  return new TableFit(table, 0);
};
const FITS = [
  fitOf("CREATE TABLE a (id INTEGER PRIMARY KEY, at INTEGER NOT NULL, who TEXT, body TEXT, size INTEGER)"),
  fitOf("CREATE TABLE b (name TEXT NOT NULL, load BLOB, weight REAL, at INTEGER)"),
];
const type = fc.oneof(fc.integer({ min: 0, max: 9 }), fc.integer({ min: 12, max: 600 }));
const varints = (types: readonly number[]): number[] => types.flatMap((one) => (one < 128 ? [one] : [0x80 | (one >> 7), one & 0x7f]));

test("types that are scored while they are read fit exactly where they do when they are read first", () => {
  for (const fit of FITS)
    for (let seed = 0; seed < 20; seed++)
      fit.learn(
        seed % 2 ? [0, 6, 33, 40, 1].slice(0, fit.width) : [0, 5, 21, 90, 2].slice(0, fit.width),
        seed + 1,
        noise(400, seed),
        0,
        400,
        "utf-8",
      );
  let fitting = 0;
  fc.assert(
    fc.property(
      fc.constantFrom(...FITS),
      fc.array(type, { minLength: 3, maxLength: 6 }),
      fc.constantFrom(0.4, 0.6, 0.75),
      fc.boolean(),
      (fit, types, least, isGiven) => {
        const given = isGiven && fit.beginsWithRowid ? [0] : [];
        const bytes = Uint8Array.from([...varints(types), 1, 1, 1, 1]);
        const whole = [...given, ...types].slice(0, fit.width);
        const end = varints(whole.slice(given.length)).length;
        const enough = given.length + types.length >= fit.width && fit.score(whole) >= least;
        const into = [...given];
        const read = fit.readFitting(bytes, 0, varints(types).length, into, least);
        const fits = read > 0 && fit.score(into) >= least;
        expect(fits).toBe(enough);
        if (!fits) return;
        fitting++;
        expect([read, into]).toEqual([end, whole]);
      },
    ),
    { numRuns: 4000, seed: 3 },
  );
  expect(fitting).toBeGreaterThan(100);
});

test("a table of bits never forgets; most of what it was not told it does not hold", () => {
  const table = new BitTable();
  expect(table.mayHold(7)).toBe(false);
  expect(table.isEmpty).toBe(true);
  for (let key = 0; key < 100_000; key++) table.add(key * 37);
  for (let key = 0; key < 100_000; key++) expect(table.mayHold(key * 37)).toBe(true);
  let wrong = 0;
  for (let key = 0; key < 100_000; key++) if (table.mayHold(key * 37 + 11)) wrong++;
  expect(wrong).toBeLessThan(5000);
});

// What is asked before a strong print is made must never say no where two strong prints are the same.
test("rows of one strong print have one content key, whatever else of them changed", () => {
  let alike = 0;
  fc.assert(
    fc.property(
      fc.array(fc.constantFrom(0, 1, 5, 6, 7, 8, 9, 21, 33, 64), { minLength: 2, maxLength: 8 }),
      fc.integer({ min: 0, max: 9999 }),
      (types, seed) => {
        const header = Uint8Array.from(types);
        const read: number[] = [];
        expect(readTypes(header, 0, header.length, read)).toBe(true);
        const body = noise(bodyBytes(read), seed);
        // A small number of it changes: the byte of each value of one byte.
        const changed = body.slice();
        let at = 0;
        for (const one of read) {
          if (one === 1) changed[at] ^= 0x55;
          at += bodyBytes([one]);
        }
        const strong = (bytes: Uint8Array) => strongPrint(bytes, 0, 0, bytes.length, header, header.length);
        if (strong(body) === 0) return;
        expect(strong(changed)).toBe(strong(body));
        alike++;
        expect(contentKey(changed, 0, changed.length, header, 0, header.length)).toBe(
          contentKey(body, 0, body.length, header, 0, header.length),
        );
      },
    ),
    { numRuns: 2000, seed: 4 },
  );
  expect(alike).toBeGreaterThan(200);
});
