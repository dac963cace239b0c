import { type Cell, cellsOf } from "./cell.ts";
import type { DatabaseFiles } from "./database-files.ts";
import { ownerByCells } from "./examine-page.ts";
import { Shapes, TableFit } from "./fit.ts";
import { PageType } from "./layout.ts";
import { btreePage, childrenOf } from "./page.ts";
import { PageLedger, Role } from "./page-ledger.ts";
import type { Table } from "./schema.ts";
import { type Tree, walkTree } from "./tree.ts";
import { type TreePage, unclaimedPages } from "./unclaimed.ts";

/** Tables of a database whose schema is lost and that no known app has: their pages are there, and say how many values a row has. */

/** Tables that are told apart at most. */
const MAX_TABLES = 500;
/** Leaf pages that say what a table's rows look like. */
const SAMPLED = 10;

/** A table of which only the pages are known. Its columns are numbered in the order in which they are stored. */
const namelessTable = (number: number, width: number): Table => ({
  name: `table ${number}`,
  nameless: number,
  columns: Array.from({ length: width }, (_, column) => ({
    name: `c${column}`,
    affinity: "blob",
    notNull: false,
    preset: null,
    virtual: false,
  })),
  stored: Array.from({ length: width }, (_, column) => column),
  rowidColumn: -1,
  withoutRowid: false,
});

/** Finds such tables among pages that are nobody's: trees by their interior pages, then leaves that stand alone. */
export class NamelessTables {
  readonly #db: DatabaseFiles;
  readonly #ledger: PageLedger;
  /** Number that the first one gets among all tables of the database. */
  readonly #first: number;
  readonly fits: TableFit[] = [];
  readonly trees: { readonly fit: TableFit; readonly tree: Tree }[] = [];

  private constructor(db: DatabaseFiles, ledger: PageLedger, first: number) {
    this.#db = db;
    this.#ledger = ledger;
    this.#first = first;
  }

  static async of(db: DatabaseFiles, ledger: PageLedger, first: number): Promise<NamelessTables> {
    const tables = new NamelessTables(db, ledger, first);
    await tables.#findTrees();
    await tables.#findLeaves();
    return tables;
  }

  /** A new table, of so many values; null where there are too many. */
  #add(width: number): TableFit | null {
    if (width === 0 || this.fits.length >= MAX_TABLES) return null;
    const fit = new TableFit(namelessTable(this.fits.length + 1, width), this.#first + this.fits.length);
    this.fits.push(fit);
    return fit;
  }

  #learn(fit: TableFit, { bytes }: TreePage, cells: readonly Cell[]): void {
    for (const { types, rowid, body, local } of cells) fit.learn(types, rowid, bytes, body, local, this.#db.encoding);
  }

  /** Interior pages that no other one leads to are roots. */
  async #findTrees(): Promise<void> {
    const roots = new Set<number>();
    const below = new Set<number>();
    for await (const { page, bytes, header } of unclaimedPages(this.#db, this.#ledger, PageType.tableInterior)) {
      const children = childrenOf(bytes, header, this.#db.form);
      // Its leaves were known for a table's by what stands in them: it is that table's too.
      const owner = Math.max(...children.map((child) => this.#ledger.ownerOf(child)));
      if (owner >= 0) {
        this.#ledger.take(page, Role.tree, owner);
        continue;
      }
      roots.add(page);
      for (const child of children) below.add(child);
    }
    for (const root of roots) {
      if (below.has(root)) continue;
      // Walked for its shape first: pages are taken by a table that there is.
      const seen = await walkTree(this.#db, root, -1, new PageLedger(this.#db.mainPages), []);
      const step = Math.max(1, Math.floor(seen.leaves.length / SAMPLED));
      const leaves: { leaf: TreePage; cells: Cell[] }[] = [];
      for (const page of seen.leaves.filter((one, index) => one > 0 && index % step === 0)) {
        const leaf = await this.#leaf(page);
        if (leaf) leaves.push({ leaf, cells: [...cellsOf(leaf.bytes, leaf.header, this.#db.form)] });
      }
      const fit = this.#add(widest(leaves.flatMap(({ cells }) => cells)));
      if (!fit) continue;
      this.trees.push({ fit, tree: await walkTree(this.#db, root, fit.index, this.#ledger, []) });
      for (const { leaf, cells } of leaves) this.#learn(fit, leaf, cells);
    }
  }

  async #leaf(page: number): Promise<TreePage | null> {
    const bytes = await this.#db.readCurrent(page);
    const header = bytes && btreePage(bytes, this.#db.form);
    return bytes && header?.type === PageType.tableLeaf ? { page, bytes, header } : null;
  }

  /** A leaf that nothing leads to is a page of a table that it looks like, or a table of its own. */
  async #findLeaves(): Promise<void> {
    const { form } = this.#db;
    for await (const leaf of unclaimedPages(this.#db, this.#ledger, PageType.tableLeaf)) {
      const cells = [...cellsOf(leaf.bytes, leaf.header, form)];
      // What is not sound in all its cells is no page of anybody.
      if (cells.length < leaf.header.cells) continue;
      const fit = ownerByCells(leaf.bytes, leaf.header, form, new Shapes(this.fits), false) ?? this.#add(widest(cells));
      if (!fit || !this.#ledger.take(leaf.page, Role.tree, fit.index)) continue;
      this.#learn(fit, leaf, cells);
      this.trees.push({ fit, tree: { leaves: [leaf.page], interior: [], broken: false } });
    }
  }
}

const widest = (cells: readonly Cell[]): number => cells.reduce((most, { types }) => Math.max(most, types.length), 0);
