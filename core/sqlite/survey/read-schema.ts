import type { Trouble } from "../../bytes/trouble.ts";
import type { DatabaseFiles, PageImage } from "../files/database-files.ts";
import { type PageLedger, Role } from "../files/page-ledger.ts";
import { cellsOf } from "../format/cell.ts";
import { PageType } from "../format/layout.ts";
import { btreePage, headerAt } from "../format/page.ts";
import { serialBytes, valueAt } from "../format/record.ts";
import { indexAsTable, parseIndex, parseTable, type Table } from "../format/schema.ts";
import { joined, readValues } from "../format/values.ts";
import { examinePage } from "../free-space/examine-page.ts";
import { Shapes, TableFit } from "../tables/fit.ts";
import { Overflow } from "./overflow.ts";
import { type Tree, walkTree } from "./tree.ts";
import { unclaimedPages } from "./unclaimed.ts";

/** "The Schema Table" (https://www.sqlite.org/schematab.html): what every database's first page is the root of. */
const SCHEMA = "CREATE TABLE sqlite_schema(type TEXT, name TEXT, tbl_name TEXT, rootpage INTEGER, sql TEXT)";

/** An index of a table. */
export interface Index {
  readonly root: number;
  /** Name of its table. */
  readonly of: string;
  /** Its entries as a table, where they tell rows apart; null: by numbers alone, or it is not known how. */
  readonly entries: { readonly table: Table; readonly of: Table; readonly columns: readonly number[] } | null;
}

/** What a database says of its tables. */
export interface Schema {
  readonly tables: readonly { readonly table: Table; readonly root: number }[];
  readonly indexes: readonly Index[];
  /** Tables that it once had, or other shapes of those that it has. */
  readonly former: readonly Table[];
  /** Not all of it could be read. */
  readonly broken: boolean;
}

interface Entry {
  readonly type: unknown;
  readonly name: unknown;
  readonly of: unknown;
  readonly root: unknown;
  readonly sql: unknown;
}

/** The schema table as a table like any other. */
export const SCHEMA_TABLE: Table | null = parseTable(SCHEMA);

/** Reads the schema, and older versions of it from everywhere in its pages. */
export async function readSchema(db: DatabaseFiles, ledger: PageLedger, troubles: Trouble[]): Promise<Schema> {
  const shape = SCHEMA_TABLE;
  if (!shape) throw new Error("the schema table's own statement does not parse");
  const fit = new TableFit(shape, 0);
  const shapes = new Shapes([fit]);
  const overflow = new Overflow(db, ledger);
  const first = await db.readCurrent(1);
  const sound = first && btreePage(first, db.form, headerAt(1));
  const tree = first && sound ? await walkTree(db, 1, -1, ledger, troubles) : NO_TREE;
  // Of a schema of several pages those that nothing leads to are known by what stands in them.
  const leaves = tree.broken ? [...tree.leaves, ...(await strayLeaves(db, ledger))] : tree.leaves;
  const now: Entry[] = [];
  for (const page of leaves) {
    const bytes = await db.readCurrent(page);
    const header = bytes && btreePage(bytes, db.form, headerAt(page));
    if (!bytes || !header) continue;
    for (const cell of cellsOf(bytes, header, db.form)) {
      fit.learn(cell.types, cell.rowid, bytes, cell.body, cell.local, db.encoding);
      const rest = cell.overflow > 0 ? await overflow.live(cell.overflow, cell.bodyBytes - cell.local) : new Uint8Array(0);
      if (!rest) continue;
      const whole = joined(bytes.subarray(cell.body, cell.body + cell.local), rest);
      now.push(entryOf(readValues(shape, cell.types, whole, 0, whole.length, cell.rowid, db.encoding).values));
    }
  }
  const tables: { table: Table; root: number }[] = [];
  for (const { type, name, root, sql } of now) {
    if (type !== "table" || typeof root !== "number" || root < 2) continue;
    const table = typeof sql === "string" ? parseTable(sql) : null;
    if (table) tables.push({ table: typeof name === "string" ? { ...table, name } : table, root });
    else troubles.push({ what: `the statement that made table ${String(name)} cannot be read`, at: 0, length: 0 });
  }
  const indexes = now.flatMap((entry) => indexOf(entry, tables));
  const isSame = (a: Table, b: Table) => a.name === b.name && a.stored.length === b.stored.length && a.withoutRowid === b.withoutRowid;
  const former: Table[] = [];
  for (const image of [...leaves.map((page) => db.currentImage(page)), ...db.beside.filter(({ page }) => page === 1)]) {
    for (const { sql, name } of image ? await erasedEntries(db, image, ledger, fit, shapes) : []) {
      const table = typeof sql === "string" ? parseTable(sql) : null;
      if (!table || table.name !== name || [...tables.map((one) => one.table), ...former].some((one) => isSame(one, table))) continue;
      former.push(table);
    }
  }
  return { tables, indexes, former, broken: tree.broken || tables.length === 0 };
}

const NO_TREE: Tree = { leaves: [], interior: [], broken: true };

/** What an entry of the schema is of: the first column ("The Schema Table", §2). */
const ENTRY_TYPES = ["table", "index", "view", "trigger"];

/** Leaf pages that hold nothing but entries of a schema, and that nothing leads to. They are taken as the schema's. */
async function strayLeaves(db: DatabaseFiles, ledger: PageLedger): Promise<number[]> {
  const found: number[] = [];
  for await (const { page, bytes, header } of unclaimedPages(db, ledger, PageType.tableLeaf)) {
    let entries = 0;
    for (const { types, body, local } of cellsOf(bytes, header, db.form))
      if (types.length === 5 && serialBytes(types[0]) <= local && ENTRY_TYPES.includes(String(valueAt(bytes, body, types[0], db.encoding))))
        entries++;
    if (entries === header.cells && ledger.take(page, Role.tree, -1)) found.push(page);
  }
  return found;
}

const entryOf = ([type, name, of, root, sql]: readonly unknown[]): Entry => ({ type, name, of, root, sql });

/** An index, and its entries as rows where a text is among its columns: numbers alone tell nobody anything. */
function indexOf({ type, name, of, root, sql }: Entry, tables: readonly { table: Table }[]): Index[] {
  if (type !== "index" || typeof root !== "number" || root < 2) return [];
  const table = tables.find((one) => one.table.name === of)?.table;
  const columns = table && !table.withoutRowid && typeof sql === "string" ? parseIndex(sql, table) : null;
  if (!table || !columns?.some((column) => table.columns[column].affinity === "text")) return [{ root, of: String(of), entries: null }];
  return [{ root, of: String(of), entries: { table: indexAsTable(String(name), table, columns), of: table, columns } }];
}

/** Entries of a page image that no longer count. */
async function erasedEntries(db: DatabaseFiles, image: PageImage, ledger: PageLedger, fit: TableFit, shapes: Shapes): Promise<Entry[]> {
  const bytes = await db.read(image);
  if (!bytes) return [];
  const role = ledger.roleOf(image.page);
  return examinePage(bytes, { shapes, form: db.form, encoding: db.encoding, image, role, owner: fit })
    .filter(({ local, bodyBytes }) => local === bodyBytes)
    .map((row) => entryOf(readValues(fit.table, row.types, bytes, row.body, row.local, row.rowid, db.encoding).values));
}
