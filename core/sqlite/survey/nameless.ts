import type { DatabaseFiles } from "../files/database-files.ts";
import { PageLedger, Role } from "../files/page-ledger.ts";
import { type Cell, cellsOf } from "../format/cell.ts";
import { PageType } from "../format/layout.ts";
import { btreePage, childrenOf } from "../format/page.ts";
import { Class, classOf } from "../format/record.ts";
import type { Table } from "../format/schema.ts";
import { Shapes, TableFit } from "../tables/fit.ts";
import { ownerByCells } from "../tables/owner-by-cells.ts";
import { type Tree, walkTree } from "./tree.ts";
import { type TreePage, unclaimedPages } from "./unclaimed.ts";

/** Tables of a database whose schema is lost and that no known app has: their pages are there, and say how many values a row has. */

/** Tables that are told apart at most. */
const MAX_TABLES = 500;
/** Leaf pages that say what a table's rows look like. */
const SAMPLED = 10;

/** A table of which only the pages are known. Its columns are numbered in the order in which they are stored. */
const namelessTable = (number: number, width: number, withoutRowid: boolean): Table => ({
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
  withoutRowid,
});

/** How the pages of a kind of tables are told: those with row ids, and those without, whose rows are kept as an index's entries are. */
interface PageKind {
  readonly interior: number;
  readonly leaf: number;
  readonly keyed: boolean;
}
const WITH_ROWID: PageKind = { interior: PageType.tableInterior, leaf: PageType.tableLeaf, keyed: false };
const WITHOUT_ROWID: PageKind = { interior: PageType.indexInterior, leaf: PageType.indexLeaf, keyed: true };

/** Fewer values are taken for an index of a table without row ids: it holds a column and the key. */
const LEAST_KEYED = 3;

/** Are these entries rows of a table rather than an index's, whose last value is always a row id? */
function areRows(cells: readonly Cell[]): boolean {
  const rowids = cells.filter(({ types }) => classOf(types[types.length - 1] ?? 0) === Class.integer).length;
  return widest(cells) >= LEAST_KEYED && rowids * 2 < cells.length;
}

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
    for (const kind of [WITH_ROWID, WITHOUT_ROWID]) {
      await tables.#findTrees(kind);
      await tables.#findLeaves(kind);
    }
    return tables;
  }

  /** A new table, as wide as these rows; null where they are none, or there are too many. */
  #add(cells: readonly Cell[], keyed: boolean): TableFit | null {
    const width = widest(cells);
    if (width === 0 || this.fits.length >= MAX_TABLES) return null;
    const fit = new TableFit(namelessTable(this.fits.length + 1, width, keyed), this.#first + this.fits.length);
    this.fits.push(fit);
    return fit;
  }

  #learn(fit: TableFit, { bytes }: TreePage, cells: readonly Cell[]): void {
    for (const { types, rowid, body, local } of cells) fit.learn(types, rowid, bytes, body, local, this.#db.encoding);
  }

  /** Interior pages that no other one leads to are roots. */
  async #findTrees(kind: PageKind): Promise<void> {
    const roots = new Set<number>();
    const below = new Set<number>();
    for await (const { page, bytes, header } of unclaimedPages(this.#db, this.#ledger, kind.interior)) {
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
        const leaf = await this.#leaf(page, kind);
        if (leaf) leaves.push({ leaf, cells: [...cellsOf(leaf.bytes, leaf.header, this.#db.form)] });
      }
      const cells = leaves.flatMap((one) => one.cells);
      if (kind.keyed && !areRows(cells)) {
        await this.#leaveIndex(root);
        continue;
      }
      const fit = this.#add(cells, kind.keyed);
      if (!fit) continue;
      this.trees.push({ fit, tree: await walkTree(this.#db, root, fit.index, this.#ledger, []) });
      for (const { leaf, cells } of leaves) this.#learn(fit, leaf, cells);
    }
  }

  /** An index's pages are what they are: their entries are rows of no table. */
  async #leaveIndex(root: number): Promise<void> {
    await walkTree(this.#db, root, -1, this.#ledger, []);
  }

  async #leaf(page: number, { leaf }: PageKind): Promise<TreePage | null> {
    const bytes = await this.#db.readCurrent(page);
    const header = bytes && btreePage(bytes, this.#db.form);
    return bytes && header?.type === leaf ? { page, bytes, header } : null;
  }

  /** A leaf that nothing leads to is a page of a table that it looks like, or a table of its own. */
  async #findLeaves({ leaf: type, keyed }: PageKind): Promise<void> {
    const { form } = this.#db;
    for await (const leaf of unclaimedPages(this.#db, this.#ledger, type)) {
      const cells = [...cellsOf(leaf.bytes, leaf.header, form)];
      // What is not sound in all its cells is no page of anybody.
      if (cells.length < leaf.header.cells) continue;
      if (keyed && !areRows(cells)) {
        this.#ledger.take(leaf.page, Role.tree);
        continue;
      }
      const fit = ownerByCells(leaf.bytes, leaf.header, form, new Shapes(this.fits), keyed) ?? this.#add(cells, keyed);
      if (!fit || !this.#ledger.take(leaf.page, Role.tree, fit.index)) continue;
      this.#learn(fit, leaf, cells);
      this.trees.push({ fit, tree: { leaves: [leaf.page], interior: [], broken: false } });
    }
  }
}

const widest = (cells: readonly Cell[]): number => cells.reduce((most, { types }) => Math.max(most, types.length), 0);
