import type { ByteSource } from "../../bytes/source.ts";
import { isPageSize, JOURNAL_MAGIC, JournalHeader } from "../format/layout.ts";
import { u32 } from "../format/page.ts";

/** A page as it was before a transaction changed it. */
export interface OldPage {
  readonly page: number;
  /** Byte offset of the page in the journal. */
  readonly at: number;
  /** The transaction was never finished: whoever opens the database puts this page back. */
  readonly hot: boolean;
}

export interface Journal {
  readonly pageSize: number;
  readonly pages: readonly OldPage[];
  /** Size of the database before an unfinished transaction, in pages. Null: none is unfinished. */
  readonly pagesBefore: number | null;
}

/** Sector sizes that a header whose own is lost may have filled; 512 is what phones use. */
const SECTOR = 512;
const MOST_SECTOR = 65_536;
const NUMBER = 4;

/** Every 200th byte from the end, and the nonce ("Database File Format" §3). */
export function journalSum(page: Uint8Array, nonce: number): number {
  let sum = nonce;
  for (let at = page.length - 200; at > 0; at -= 200) sum = (sum + page[at]) >>> 0;
  return sum;
}

/**
 * Reads the pages of a rollback journal, also of one that was ended by zeroing its header (journal mode PERSIST): the pages
 * behind it are still there. `mostPages`: page numbers above are none. What lies behind the last transaction's pages is older still.
 * Source: "Database File Format" §3
 */
export async function readJournal(source: ByteSource, pageSizeHint: number, mostPages: number): Promise<Journal | null> {
  if (source.size < JournalHeader.size) return null;
  const head = await source.read(0, JournalHeader.size);
  const isSound = JournalHeader.magic(head, 0) === JOURNAL_MAGIC;
  const said = JournalHeader.pageSize(head, 0);
  const pageSize = isSound && isPageSize(said) ? said : pageSizeHint;
  if (!isPageSize(pageSize)) return null;
  const ownSector = JournalHeader.sectorSize(head, 0);
  const sector = isSound && ownSector >= 32 && ownSector <= MOST_SECTOR ? ownSector : SECTOR;
  const pages: OldPage[] = [];
  const step = NUMBER + pageSize + NUMBER;
  const records = JournalHeader.records(head, 0);
  /** Pages of the unfinished transaction that are still to come; all bits set: as many as there are. */
  let hotLeft = isSound ? records : 0;
  let nonce: number | null = isSound ? JournalHeader.nonce(head, 0) : null;
  for (let at = sector; at + step <= source.size; ) {
    const record = await source.read(at, step);
    const page = u32(record, 0);
    const kept = record.subarray(NUMBER, NUMBER + pageSize);
    const sum = u32(record, NUMBER + pageSize);
    if (page > 0 && page <= mostPages && (nonce === null || sum === journalSum(kept, nonce))) {
      nonce ??= (sum - journalSum(kept, 0)) >>> 0;
      pages.push({ page, at: at + NUMBER, hot: hotLeft > 0 });
      hotLeft--;
      at += step;
      continue;
    }
    // Another header may begin at the next sector; its pages have a nonce of their own.
    const next = Math.ceil(at / sector) * sector;
    const header = next + JournalHeader.size <= source.size ? await source.read(next, JournalHeader.size) : null;
    if (header && JournalHeader.magic(header, 0) === JOURNAL_MAGIC) {
      nonce = JournalHeader.nonce(header, 0);
      hotLeft = isSound ? JournalHeader.records(header, 0) : 0;
      at = next + sector;
      continue;
    }
    // Else what follows was left by an earlier transaction, in the same places and with another nonce.
    hotLeft = 0;
    if (nonce === null) at += step;
    nonce = null;
  }
  return {
    pageSize,
    pages,
    pagesBefore: isSound && pages.some((one) => one.hot) ? JournalHeader.pagesBefore(head, 0) : null,
  };
}
