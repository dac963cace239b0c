import type { Trouble } from "../bytes/trouble.ts";
import { type Candidate, CandidateBook } from "./candidates.ts";
import type { DatabaseFiles, PageImage } from "./database-files.ts";
import { examinePage, ownerByCells, readCell } from "./examine-page.ts";
import { Shapes, TableFit } from "./fit.ts";
import type { FoundRow } from "./found-row.ts";
import { IndexHints } from "./index-hints.ts";
import { DatabaseHeader, PageType } from "./layout.ts";
import { LostRanges } from "./lost-ranges.ts";
import { Overflow } from "./overflow.ts";
import { type BtreePage, btreePage, cellAt } from "./page.ts";
import { PageLedger, Role } from "./page-ledger.ts";
import { readSchema, SCHEMA_TABLE } from "./read-schema.ts";
import { Class, classOf, serialBytes, valueAt } from "./record.ts";
import { evidenceOf, type Row, type Version } from "./row.ts";
import type { Table } from "./schema.ts";
import { findTrunks, type Tree, walkFreelist, walkTree } from "./tree.ts";
import { isSameRow, readValues, textsRead, type Values } from "./values.ts";

export interface RecoverBatch {
  readonly rows: readonly Row[];
  readonly troubles: readonly Trouble[];
  /** Page images looked at, of all. */
  readonly done: number;
  readonly total: number;
}

/** Pages of a table that are looked at before others are judged by what they hold. */
const SAMPLED = 10;
/** Rows handed on at once. */
const BATCH = 512;
/** Page images between two batches. */
const STEP = 256;
/** Pages of which what was found in them is kept at hand. */
const AT_HAND = 64;
const MAX_TROUBLES = 200;

/**
 * Every row of a database: those that a reader sees, and those that were erased, once each, with their versions. `known`:
 * tables that erased pages may be of beside the database's own. Stops between two pages when `signal` aborts.
 * Source: "Database File Format" of SQLite
 */
export async function* recoverRows(db: DatabaseFiles, known: readonly Table[], signal: AbortSignal): AsyncGenerator<RecoverBatch> {
  const work = new Recovery(db, known);
  await work.prepare();
  yield* work.run(signal);
}

class Recovery {
  readonly #db: DatabaseFiles;
  readonly #known: readonly Table[];
  readonly #ledger: PageLedger;
  readonly #overflow: Overflow;
  readonly #book = new CandidateBook();
  readonly #hints = new IndexHints();
  readonly #lost = new LostRanges();
  readonly #troubles: Trouble[];
  #trees: { fit: TableFit; tree: Tree }[] = [];
  #shapes = new Shapes([]);
  /** Pages that no tree leads to although they are not free: of damaged databases. */
  readonly #orphans: { page: number; fit: TableFit }[] = [];
  readonly #indexed = new Map<TableFit, Set<number | bigint>>();
  #done = 0;
  #total = 0;

  constructor(db: DatabaseFiles, known: readonly Table[]) {
    this.#db = db;
    this.#known = known;
    this.#ledger = new PageLedger(db.mainPages);
    this.#overflow = new Overflow(db, this.#ledger);
    this.#troubles = [...db.troubles];
  }

  /** What each page is, whose, and what the tables' rows look like. */
  async prepare(): Promise<void> {
    const db = this.#db;
    const schema = await readSchema(db, this.#ledger, this.#troubles);
    const fits: TableFit[] = [];
    let broken = schema.broken;
    for (const { table, root } of schema.tables) {
      const fit = new TableFit(table, fits.length);
      fits.push(fit);
      const tree = await walkTree(db, root, fit.index, this.#ledger, this.#troubles);
      broken ||= tree.broken;
      this.#trees.push({ fit, tree });
    }
    for (const { root, of: tableName, entries } of schema.indexes) {
      const of = entries && fits.find(({ table }) => table === entries.of);
      const fit = of ? new TableFit(entries.table, fits.length, true, { fit: of, columns: entries.columns }) : null;
      if (fit) fits.push(fit);
      const tree = await walkTree(db, root, fit?.index ?? -1, this.#ledger, this.#troubles);
      if (fit) await this.#learn(fit, tree);
      const damaged = this.#trees.find((one) => one.tree.broken && one.fit.table.name === tableName && !one.fit.table.withoutRowid);
      if (damaged) await this.#noteIndexed(damaged.fit, tree);
    }
    for (const table of schema.former) fits.push(new TableFit(table, fits.length));
    const own = new Set(fits.map(({ table }) => table.name));
    // Entries of the schema are rows too: they must not be taken for those of another table.
    if (SCHEMA_TABLE) fits.push(new TableFit(SCHEMA_TABLE, fits.length));
    // Pages of a database that knows its own tables are no other's.
    if (broken) for (const table of this.#known) if (!own.has(table.name)) fits.push(new TableFit(table, fits.length, false));
    const complete = await walkFreelist(db, this.#ledger, this.#troubles);
    if (!complete && (broken || !db.hasHeader)) await findTrunks(db, this.#ledger);
    this.#shapes = new Shapes(fits);
    for (const { fit, tree } of this.#trees) await this.#learn(fit, tree);
    if (broken) await this.#findOrphans(schema.tables.length === 0);
    this.#shapes = new Shapes(fits);
    this.#total = db.mainPages + db.beside.length + this.#livePages().length;
  }

  async #learn(fit: TableFit, { leaves, interior }: Tree): Promise<void> {
    const pages = fit.table.withoutRowid ? [...leaves, ...interior] : leaves;
    const step = Math.max(1, Math.floor(pages.length / SAMPLED));
    for (let index = 0; index < pages.length; index += step)
      await this.#cellsOf(pages[index], (cell, bytes) =>
        fit.learn(cell.types, cell.rowid, bytes, cell.body, cell.local, this.#db.encoding),
      );
    const last = pages.at(-1);
    if (last !== undefined)
      await this.#cellsOf(last, (cell, bytes) => fit.learn(cell.types, cell.rowid, bytes, cell.body, cell.local, this.#db.encoding));
  }

  /** Reads the cells of a page as a reader sees it. */
  async #cellsOf(
    number: number,
    take: (cell: NonNullable<ReturnType<typeof readCell>>, bytes: Uint8Array) => void,
  ): Promise<Uint8Array | null> {
    const bytes = await this.#db.readCurrent(number);
    const page = bytes && btreePage(bytes, this.#db.form, number === 1 ? DatabaseHeader.size : 0);
    if (!bytes || !page) return null;
    for (let index = 0; index < page.cells; index++) {
      const at = cellAt(bytes, page, index, this.#db.form);
      const cell = at > 0 ? readCell(bytes, page, at, this.#db.form) : null;
      if (cell) take(cell, bytes);
    }
    return bytes;
  }

  /** Pages of a damaged database that hold rows, are not free, and that nothing leads to any more. */
  async #findOrphans(noSchema: boolean): Promise<void> {
    const db = this.#db;
    const form = db.form;
    const leaves: { page: number; bytes: Uint8Array; header: BtreePage }[] = [];
    for (let page = 2; page <= db.pages; page++) {
      if (this.#ledger.roleOf(page) !== Role.none) continue;
      const bytes = await db.readCurrent(page);
      const header = bytes && btreePage(bytes, form);
      if (!bytes || header?.type !== PageType.tableLeaf || header.cells === 0) continue;
      leaves.push({ page, bytes, header });
    }
    // Without a schema the rows themselves tell what tables look like: by what most of a page's cells fit.
    if (noSchema)
      for (const { bytes, header } of leaves) {
        const fit = ownerByCells(bytes, header, form, this.#shapes, false);
        if (!fit) continue;
        for (let index = 0; index < header.cells; index++) {
          const at = cellAt(bytes, header, index, form);
          const cell = at > 0 ? readCell(bytes, header, at, form) : null;
          if (cell) fit.learn(cell.types, cell.rowid, bytes, cell.body, cell.local, db.encoding);
        }
      }
    for (const { page, bytes, header } of leaves) {
      const fit = ownerByCells(bytes, header, form, this.#shapes, false);
      if (!fit) continue;
      this.#ledger.take(page, Role.tree, fit.index);
      this.#orphans.push({ page, fit });
    }
  }

  /** Row ids that an index still names: rows that are there although their own page of a damaged table may be lost. */
  async #noteIndexed(fit: TableFit, { leaves, interior }: Tree): Promise<void> {
    const rowids = this.#indexed.get(fit) ?? new Set();
    this.#indexed.set(fit, rowids);
    for (const page of [...leaves, ...interior])
      await this.#cellsOf(page, ({ types, body, local, bodyBytes }, bytes) => {
        const type = types.at(-1);
        if (type === undefined || local < bodyBytes || classOf(type) !== Class.integer) return;
        const rowid = valueAt(bytes, body + bodyBytes - serialBytes(type), type, this.#db.encoding);
        if (typeof rowid === "number" || typeof rowid === "bigint") rowids.add(rowid);
      });
  }

  /** Pages whose cells are rows that a reader sees, table by table in key order. */
  #livePages(): { page: number; fit: TableFit }[] {
    const pages: { page: number; fit: TableFit }[] = [];
    for (const { fit, tree } of this.#trees) {
      for (const page of tree.leaves) pages.push({ page, fit });
      if (fit.table.withoutRowid) for (const page of tree.interior) pages.push({ page, fit });
    }
    pages.push(...this.#orphans);
    return pages;
  }

  *#images(): Generator<PageImage> {
    for (let page = 1; page <= this.#db.mainPages; page++) yield this.#db.mainImage(page);
    yield* this.#db.beside;
  }

  #batch(rows: readonly Row[]): RecoverBatch {
    const troubles = this.#troubles.splice(0).slice(0, MAX_TROUBLES);
    return { rows, troubles, done: this.#done, total: this.#total };
  }

  async *run(signal: AbortSignal): AsyncGenerator<RecoverBatch> {
    for (const image of this.#images()) {
      if (this.#done++ % STEP === 0) {
        signal.throwIfAborted();
        yield this.#batch([]);
      }
      const bytes = await this.#db.read(image);
      if (!bytes) {
        if (image.file === "main")
          this.#troubles.push({ what: "a page cannot be read", at: image.at, length: bytes ?? this.#db.form.pageSize });
        continue;
      }
      for (const row of this.#examine(bytes, image)) this.#note(row, bytes, image);
    }
    let rows: Row[] = [];
    for (const { page, fit } of this.#livePages()) {
      this.#done++;
      for (const row of await this.#liveRows(page, fit)) rows.push(row);
      if (rows.length < BATCH) continue;
      signal.throwIfAborted();
      yield this.#batch(rows);
      rows = [];
    }
    for await (const row of this.#erased()) {
      rows.push(row);
      if (rows.length < BATCH) continue;
      signal.throwIfAborted();
      yield this.#batch(rows);
      rows = [];
    }
    yield this.#batch(rows);
  }

  #note(row: FoundRow, bytes: Uint8Array, image: PageImage): void {
    const { indexOf } = row.fit;
    if (!indexOf) this.#book.add(row, bytes, image);
    else if (row.how !== "cut" && row.local === row.bodyBytes) {
      const { values } = readValues(row.fit.table, row.types, bytes, row.body, row.local, null, this.#db.encoding);
      this.#hints.add(indexOf, values, evidenceOf(image, row));
    }
  }

  #examine(bytes: Uint8Array, image: PageImage): FoundRow[] {
    const { form, encoding } = this.#db;
    const owner = this.#ledger.ownerOf(image.page);
    return examinePage(bytes, {
      shapes: this.#shapes,
      form,
      encoding,
      image,
      role: this.#ledger.roleOf(image.page),
      owner: owner >= 0 ? this.#shapes.tables[owner] : null,
    });
  }

  async #liveRows(page: number, fit: TableFit): Promise<Row[]> {
    const rows = page === 0 ? null : await this.#rowsOf(page, fit);
    if (page !== 0 && rows?.length === 0) return rows;
    const first = rows?.[0].rowid ?? null;
    const last = rows?.at(-1)?.rowid ?? null;
    this.#lost.page(fit, first === null || last === null ? null : { first: Number(first), last: Number(last) });
    return rows ?? [];
  }

  /** @returns null where the page is missing */
  async #rowsOf(page: number, fit: TableFit): Promise<Row[] | null> {
    const db = this.#db;
    const image = db.currentImage(page);
    const bytes = image && (await db.read(image));
    const header = bytes && btreePage(bytes, db.form, page === 1 ? DatabaseHeader.size : 0);
    if (!image || !bytes || !header) {
      this.#troubles.push({
        what: `a page of ${fit.table.name} is missing or broken`,
        at: (page - 1) * db.form.pageSize,
        length: db.form.pageSize,
      });
      return null;
    }
    const rows: Row[] = [];
    for (let index = 0; index < header.cells; index++) {
      const at = cellAt(bytes, header, index, db.form);
      const cell = at > 0 ? readCell(bytes, header, at, db.form) : null;
      if (!cell) {
        this.#troubles.push({ what: `a row of ${fit.table.name} is broken`, at: image.at + at, length: 0 });
        continue;
      }
      this.#hints.known(fit, cell.rowid);
      const earlier = this.#book.live(fit, cell.rowid, cell.types, bytes, cell.body, cell.local);
      let read: Read;
      if (cell.overflow === 0 && cell.local === cell.bodyBytes)
        read = readValues(fit.table, cell.types, bytes, cell.body, cell.local, cell.rowid, db.encoding);
      else {
        const rest = await this.#overflow.live(cell.overflow, cell.bodyBytes - cell.local);
        read = this.#joined(fit.table, cell, bytes, rest);
      }
      const versions: Version[] = [];
      for (const one of earlier) {
        const version = await this.#decode(one);
        if (!version || !isSameRow(version.values, read.values)) continue;
        one.live = true;
        if (!one.partial) versions.push({ values: version.values, evidence: evidenceOf(one.image, version.row) });
      }
      rows.push({
        table: fit.table,
        state: "present",
        condition: read.complete ? "whole" : "damaged",
        rowid: cell.rowid,
        values: read.values,
        evidence: [{ what: "live", file: image.file, page, at: image.at + at }],
        versions,
      });
    }
    return rows;
  }

  #joined(table: Table, cell: Pick<FoundRow, "types" | "body" | "local" | "rowid">, bytes: Uint8Array, rest: Uint8Array | null): Read {
    const whole = new Uint8Array(cell.local + (rest?.length ?? 0));
    whole.set(bytes.subarray(cell.body, cell.body + cell.local));
    if (rest) whole.set(rest, cell.local);
    return readValues(table, cell.types, whole, 0, whole.length, cell.rowid, this.#db.encoding);
  }

  readonly #atHand = new Map<PageImage, { bytes: Uint8Array; rows: FoundRow[] }>();

  /** What was found in a page once more: the same bytes give the same rows. */
  async #again(image: PageImage): Promise<{ bytes: Uint8Array; rows: FoundRow[] } | null> {
    const known = this.#atHand.get(image);
    if (known) return known;
    const bytes = await this.#db.read(image);
    if (!bytes) return null;
    const found = { bytes, rows: this.#examine(bytes, image) };
    this.#atHand.set(image, found);
    for (const old of this.#atHand.keys()) {
      if (this.#atHand.size <= AT_HAND) break;
      this.#atHand.delete(old);
    }
    return found;
  }

  async #decode(candidate: Candidate): Promise<{ values: Values; complete: boolean; row: FoundRow } | null> {
    const { image, start, fit } = candidate;
    const found = await this.#again(image);
    const row = found?.rows.find((one) => one.start === start && one.fit === fit);
    if (!found || !row) return null;
    if (row.how === "cut" || row.local === row.bodyBytes)
      return { ...readValues(fit.table, row.types, found.bytes, row.body, row.local, row.rowid, this.#db.encoding), row };
    const own = found.bytes.subarray(row.body, row.body + row.local);
    const isRight = (rest: Uint8Array) => {
      const whole = new Uint8Array(own.length + rest.length);
      whole.set(own);
      whole.set(rest, own.length);
      return textsRead(row.types, whole, this.#db.encoding);
    };
    const rest = row.overflow > 0 ? await this.#overflow.erased(row.overflow, row.bodyBytes - row.local, candidate.age, isRight) : null;
    return { ...this.#joined(fit.table, row, found.bytes, rest), row };
  }

  #isIndexed({ fit, rowid }: Candidate): boolean {
    return rowid !== null && (this.#indexed.get(fit)?.has(rowid) ?? false);
  }

  /** Erased rows, each once: what one row id held is one row with its versions, unless it was given to another row. */
  async *#erased(): AsyncGenerator<Row> {
    for (const group of this.#book.groups()) {
      if (group[0].fit.table === SCHEMA_TABLE) continue;
      group.sort((a, b) => Number(a.partial) - Number(b.partial) || b.age - a.age);
      const told: { row: Row; versions: Version[] }[] = [];
      for (const one of group) {
        if (one.live) continue;
        const decoded = await this.#decode(one);
        if (!decoded) continue;
        const { values, complete, row } = decoded;
        const isWhole = complete && !one.partial;
        if (isWhole) {
          const found = await this.#again(one.image);
          if (found) this.#book.markParts(row.types, found.bytes, row.body, row.local);
        }
        const newer = told.find((known) => isSameRow(known.row.values, values));
        const evidence = [
          evidenceOf(one.image, row),
          ...(one.copies ?? []).map(({ image, start }) => evidenceOf(image, { start, how: "cell", unallocated: false })),
        ];
        if (newer) {
          if (isWhole) newer.versions.push({ values, evidence: evidence[0] });
          continue;
        }
        const versions: Version[] = [];
        // Where its own page is missing nobody can tell whether it was erased: it is not vouched for.
        told.push({
          row: {
            table: one.fit.table,
            state: this.#isIndexed(one) && told.length === 0 ? "present" : "erased",
            condition: isWhole && !this.#lost.holds(one.fit, one.rowid, row.unallocated) ? "whole" : "damaged",
            rowid: one.rowid,
            values,
            evidence,
            versions,
          },
          versions,
        });
      }
      for (const { row } of told) {
        this.#hints.told(row);
        yield row;
      }
    }
    yield* this.#hints.rest();
  }
}

type Read = ReturnType<typeof readValues>;
