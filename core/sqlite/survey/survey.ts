import type { Trouble } from "../../bytes/trouble.ts";
import type { DatabaseFiles } from "../files/database-files.ts";
import { PageLedger, Role } from "../files/page-ledger.ts";
import { type Cell, cellsOf } from "../format/cell.ts";
import { PageType } from "../format/layout.ts";
import { btreePage, headerAt } from "../format/page.ts";
import { Class, classOf, serialBytes, valueAt } from "../format/record.ts";
import type { Table } from "../format/schema.ts";
import { noteAlike, Shapes, TableFit } from "../tables/fit.ts";
import { ownerByCells } from "../tables/owner-by-cells.ts";
import { NamelessTables } from "./nameless.ts";
import { readSchema, SCHEMA_TABLE } from "./read-schema.ts";
import { findTrunks, type Tree, walkFreelist, walkPointerMap, walkTree } from "./tree.ts";
import { type TreePage, unclaimedPages } from "./unclaimed.ts";

/** Pages of a table that are looked at before others are judged by what they hold. */
const SAMPLED = 10;

/** A page whose cells are rows that a reader sees. Page 0: one or more that are missing here. */
export interface LivePage {
  readonly page: number;
  readonly fit: TableFit;
}

/** What each page of a database is, whose, and what the rows of its tables look like. */
export class Survey {
  readonly db: DatabaseFiles;
  readonly ledger: PageLedger;
  readonly troubles: Trouble[];
  shapes = new Shapes([]);
  readonly #trees: { fit: TableFit; tree: Tree }[] = [];
  /** Pages that no tree leads to although they are not free: of damaged databases. */
  readonly #orphans: LivePage[] = [];
  readonly #indexed = new Map<TableFit, Set<number | bigint>>();

  private constructor(db: DatabaseFiles) {
    this.db = db;
    this.ledger = new PageLedger(db.mainPages);
    this.troubles = [...db.troubles];
  }

  /** Surveys a database. `known`: tables that pages may be of where the database does not know its own. */
  static async of(db: DatabaseFiles, known: readonly Table[]): Promise<Survey> {
    const survey = new Survey(db);
    await survey.#run(known);
    return survey;
  }

  async #run(known: readonly Table[]): Promise<void> {
    const { db, ledger, troubles } = this;
    const schema = await readSchema(db, ledger, troubles);
    const fits: TableFit[] = [];
    let broken = schema.broken;
    for (const { table, root } of schema.tables) {
      const fit = new TableFit(table, fits.length);
      fits.push(fit);
      const tree = await walkTree(db, root, fit.index, ledger, troubles);
      broken ||= tree.broken;
      this.#trees.push({ fit, tree });
      await this.#learn(fit, tree);
    }
    for (const { root, of: tableName, entries } of schema.indexes) {
      const of = entries && fits.find(({ table }) => table === entries.of);
      const fit = of ? new TableFit(entries.table, fits.length, true, { fit: of, columns: entries.columns }) : null;
      if (fit) fits.push(fit);
      const tree = await walkTree(db, root, fit?.index ?? -1, ledger, troubles);
      if (fit) await this.#learn(fit, tree);
      const damaged = this.#trees.find((one) => one.tree.broken && one.fit.table.name === tableName && !one.fit.table.withoutRowid);
      if (damaged) await this.#noteIndexed(damaged.fit, tree);
    }
    for (const table of schema.former) fits.push(new TableFit(table, fits.length));
    // Entries of the schema are rows too: they must not be taken for those of another table.
    if (SCHEMA_TABLE) fits.push(new TableFit(SCHEMA_TABLE, fits.length));
    // Pages of a database that knows its own tables are no other's.
    const own = new Set(fits.map(({ table }) => table.name));
    if (broken) for (const table of known) if (!own.has(table.name)) fits.push(new TableFit(table, fits.length, false));
    const complete = await walkFreelist(db, ledger, troubles);
    await walkPointerMap(db, ledger, !complete);
    if (!complete && (broken || !db.hasHeader)) await findTrunks(db, ledger);
    this.shapes = new Shapes(fits);
    noteAlike(fits);
    if (!broken) return;
    const noSchema = schema.tables.length === 0;
    const found = (await this.#findOrphans(noSchema)).tables;
    const there = noSchema ? fits.filter((fit) => fit.own || found.includes(fit)) : fits;
    if (noSchema) {
      const nameless = await NamelessTables.of(db, ledger, fits.length);
      there.push(...nameless.fits);
      this.#trees.push(...nameless.trees);
    }
    // What was learned meanwhile says anew which rows may be short.
    this.shapes = new Shapes(there);
    noteAlike(there);
  }

  async #learn(fit: TableFit, { leaves, interior }: Tree): Promise<void> {
    const pages = fit.table.withoutRowid ? [...leaves, ...interior] : leaves;
    const step = Math.max(1, Math.floor(pages.length / SAMPLED));
    const chosen = new Set(pages.filter((page, index) => page > 0 && index % step === 0));
    const last = pages.at(-1);
    if (last) chosen.add(last);
    for (const page of chosen) await this.#readCells(page, (cell, bytes) => this.#note(fit, cell, bytes));
  }

  #note(fit: TableFit, { types, rowid, body, local }: Cell, bytes: Uint8Array): void {
    fit.learn(types, rowid, bytes, body, local, this.db.encoding);
  }

  /** Reads the cells of a page as a reader sees it. */
  async #readCells(number: number, take: (cell: Cell, bytes: Uint8Array) => void): Promise<void> {
    const bytes = await this.db.readCurrent(number);
    const page = bytes && btreePage(bytes, this.db.form, headerAt(number));
    if (bytes && page) for (const cell of cellsOf(bytes, page, this.db.form)) take(cell, bytes);
  }

  /** Pages of a damaged database that hold rows, are not free, and that nothing leads to any more. @returns the tables that there are */
  async #findOrphans(noSchema: boolean): Promise<Shapes> {
    const { db, ledger } = this;
    const leaves: TreePage[] = [];
    for await (const leaf of unclaimedPages(db, ledger, PageType.tableLeaf)) leaves.push(leaf);
    const ownerOf = ({ bytes, header }: TreePage, shapes: Shapes, strict = false) =>
      ownerByCells(bytes, header, db.form, shapes, false, strict);
    let { shapes } = this;
    // Without a schema the rows themselves tell what tables there are, and what they look like: by what most of a page's cells fit.
    if (noSchema) {
      const seen = new Set<TableFit>();
      for (const leaf of leaves) {
        const fit = ownerOf(leaf, shapes, true);
        if (!fit) continue;
        seen.add(fit);
        for (const cell of cellsOf(leaf.bytes, leaf.header, db.form)) this.#note(fit, cell, leaf.bytes);
      }
      shapes = new Shapes([...seen]);
    }
    for (const leaf of leaves) {
      const fit = ownerOf(leaf, shapes);
      if (fit && ledger.take(leaf.page, Role.tree, fit.index)) this.#orphans.push({ page: leaf.page, fit });
    }
    return shapes;
  }

  /** Row ids that an index still names: rows that are there although their own page of a damaged table may be lost. */
  async #noteIndexed(fit: TableFit, { leaves, interior }: Tree): Promise<void> {
    const rowids = this.#indexed.get(fit) ?? new Set();
    this.#indexed.set(fit, rowids);
    for (const page of [...leaves, ...interior])
      await this.#readCells(page, ({ types, body, local, bodyBytes }, bytes) => {
        const type = types.at(-1);
        if (type === undefined || local < bodyBytes || classOf(type) !== Class.integer) return;
        const rowid = valueAt(bytes, body + bodyBytes - serialBytes(type), type, this.db.encoding);
        if (typeof rowid === "number" || typeof rowid === "bigint") rowids.add(rowid);
      });
  }

  isIndexed(fit: TableFit, rowid: number | bigint | null): boolean {
    return rowid !== null && (this.#indexed.get(fit)?.has(rowid) ?? false);
  }

  /** Pages whose cells are rows that a reader sees, table by table in key order. */
  *livePages(): Generator<LivePage> {
    for (const { fit, tree } of this.#trees) {
      for (const page of tree.leaves) yield { page, fit };
      if (fit.table.withoutRowid) for (const page of tree.interior) yield { page, fit };
    }
    yield* this.#orphans;
  }

  get livePageCount(): number {
    let count = this.#orphans.length;
    for (const { fit, tree } of this.#trees) count += tree.leaves.length + (fit.table.withoutRowid ? tree.interior.length : 0);
    return count;
  }
}
