import type { DatabaseFiles } from "../files/database-files.ts";
import { type PageLedger, Role } from "../files/page-ledger.ts";
import { type BtreePage, btreePage } from "../format/page.ts";

/** A page of a b-tree, as a reader sees it. */
export interface TreePage {
  readonly page: number;
  readonly bytes: Uint8Array;
  readonly header: BtreePage;
}

/** B-tree pages of a type that hold cells and are nobody's until now: where a schema or a tree of a damaged database leads to them no more. */
export async function* unclaimedPages(db: DatabaseFiles, ledger: PageLedger, type: number): AsyncGenerator<TreePage> {
  for (let page = 2; page <= Math.min(db.pages, db.mainPages + db.beside.length); page++) {
    if (ledger.roleOf(page) !== Role.none) continue;
    const bytes = await db.readCurrent(page);
    const header = bytes && btreePage(bytes, db.form);
    if (bytes && header?.type === type && header.cells > 0) yield { page, bytes, header };
  }
}
