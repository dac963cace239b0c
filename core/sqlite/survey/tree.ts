import type { Trouble } from "../../bytes/trouble.ts";
import type { DatabaseFiles } from "../files/database-files.ts";
import { type PageLedger, Role } from "../files/page-ledger.ts";
import { DatabaseHeader, PointerMapEntry, Trunk } from "../format/layout.ts";
import { btreePage, childrenOf, headerAt, u32 } from "../format/page.ts";

/** B-trees are not deeper than this: twenty levels of two children are a million pages. */
const MAX_DEPTH = 24;

/** A b-tree that was walked: its pages in key order. */
export interface Tree {
  /** Zero stands for one or more that are missing. */
  readonly leaves: number[];
  readonly interior: number[];
  /** Some of its pages are missing, or no pages of it. */
  readonly broken: boolean;
}

const placeOf = (page: number, { form }: DatabaseFiles) => ({ at: (page - 1) * form.pageSize, length: form.pageSize });

/**
 * Walks a b-tree from its root; every page is taken once, whatever its pointers say. Leaves are told apart by the first
 * child of each page above them, all leaves being equally deep ("Database File Format" §1.6), and are not read.
 */
export async function walkTree(db: DatabaseFiles, root: number, owner: number, ledger: PageLedger, troubles: Trouble[]): Promise<Tree> {
  const leaves: number[] = [];
  const interior: number[] = [];
  let broken = false;
  const trouble = (what: string, page: number) => {
    broken = true;
    leaves.push(0);
    troubles.push({ what, ...placeOf(page, db) });
  };
  const todo: { page: number; depth: number }[] = [{ page: root, depth: 0 }];
  for (let step = todo.pop(); step; step = todo.pop()) {
    const { page, depth } = step;
    if (page < 1 || page > db.pages || depth > MAX_DEPTH) {
      trouble("a table leads to a page that the database does not have", Math.min(Math.max(page, 1), db.pages || 1));
      continue;
    }
    if (!ledger.take(page, Role.tree, owner)) {
      trouble("a page belongs to two tables, or to one twice", page);
      continue;
    }
    const bytes = await db.readCurrent(page);
    const header = bytes && btreePage(bytes, db.form, headerAt(page));
    if (!bytes || !header) {
      trouble("a page of a table is missing or broken", page);
      continue;
    }
    if (header.isLeaf) {
      leaves.push(page);
      continue;
    }
    interior.push(page);
    const children = childrenOf(bytes, header, db.form);
    const first = await db.readCurrent(children[0]);
    const below = first && btreePage(first, db.form);
    if (!below?.isLeaf) {
      for (let index = children.length - 1; index >= 0; index--) todo.push({ page: children[index], depth: depth + 1 });
      continue;
    }
    // Only the ones that lie behind a leaf were proven; each is looked at again when its rows are read.
    for (const child of children) {
      if (child < 1 || child > db.pages) trouble("a table leads to a page that the database does not have", page);
      else if (!ledger.take(child, Role.tree, owner)) trouble("a page belongs to two tables, or to one twice", child);
      else {
        const there = db.currentImage(child) !== null;
        if (there) leaves.push(child);
        else trouble("a page of a table is missing or broken", child);
      }
    }
  }
  return { leaves, interior, broken };
}

/** Leaf pages that a trunk names. Null: it cannot be one. */
function trunkLeaves(bytes: Uint8Array, usable: number, pages: number): number[] | null {
  const count = Trunk.leaves(bytes, 0);
  if (count > usable / 4 - 2 || Trunk.next(bytes, 0) > pages) return null;
  const leaves: number[] = [];
  for (let index = 0; index < count; index++) {
    const page = u32(bytes, Trunk.size + 4 * index);
    if (page < 2 || page > pages) return null;
    leaves.push(page);
  }
  return new Set(leaves).size === leaves.length ? leaves : null;
}

/** Walks the list of free pages ("Database File Format" §1.5). @returns whether it is as long as the header says */
export async function walkFreelist(db: DatabaseFiles, ledger: PageLedger, troubles: Trouble[]): Promise<boolean> {
  if (!db.hasHeader) return false;
  let free = 0;
  let page = DatabaseHeader.firstTrunk(db.header, 0);
  while (page !== 0) {
    const bytes = page <= db.pages ? await db.readCurrent(page) : null;
    const leaves = bytes && trunkLeaves(bytes, db.form.usable, db.pages);
    if (!bytes || !leaves || !ledger.take(page, Role.trunk)) {
      troubles.push({ what: "the list of free pages is broken", ...placeOf(Math.min(page, db.pages || 1), db) });
      return false;
    }
    free++;
    for (const leaf of leaves) if (ledger.take(leaf, Role.free)) free++;
    page = Trunk.next(bytes, 0);
  }
  return free === DatabaseHeader.freelistPages(db.header, 0);
}

/** Free pages of a database whose list of them is lost or broken: what looks like a trunk, and what it names. */
export async function findTrunks(db: DatabaseFiles, ledger: PageLedger): Promise<void> {
  // A header may claim any number of pages: those that no file holds are not asked for.
  for (let page = 2; page <= Math.min(db.pages, db.mainPages + db.beside.length); page++) {
    if (ledger.roleOf(page) !== Role.none) continue;
    const bytes = await db.readCurrent(page);
    if (bytes?.[0] !== 0) continue;
    const leaves = trunkLeaves(bytes, db.form.usable, db.pages);
    // A page of zeros would pass for an empty trunk.
    if (!leaves || (leaves.length === 0 && Trunk.next(bytes, 0) === 0)) continue;
    ledger.take(page, Role.trunk);
    for (const leaf of leaves) ledger.take(leaf, Role.free);
  }
}

/** What a pointer map says of a page: it is free ("Database File Format" §1.8). */
const FREE = 2;

/**
 * Takes the pointer map pages of a database that has them (page 2, and each behind as many pages as it tells of).
 * `trusted`: pages that they call free are free, as far as nothing else is known of them.
 */
export async function walkPointerMap(db: DatabaseFiles, ledger: PageLedger, trusted: boolean): Promise<void> {
  if (!db.hasHeader || DatabaseHeader.largestRoot(db.header, 0) === 0) return;
  const entries = Math.floor(db.form.usable / PointerMapEntry.size);
  for (let page = 2; page <= Math.min(db.pages, db.mainPages + db.beside.length); page += entries + 1) {
    ledger.take(page, Role.tree);
    const bytes = trusted ? await db.readCurrent(page) : null;
    if (!bytes) continue;
    for (let index = 0; index < entries; index++)
      if (PointerMapEntry.kind(bytes, index * PointerMapEntry.size) === FREE) ledger.take(page + 1 + index, Role.free);
  }
}
