import { type ByteSource, readOr } from "../../bytes/source.ts";
import { isBtreeType, PageType } from "../format/layout.ts";
import { btreePage, cellAt, type PageForm } from "../format/page.ts";
import type { Encoding } from "../format/record.ts";
import { ToldEncoding } from "./told-encoding.ts";

/** What a database's header would say, told from its pages. */

/** Pages that are looked at. */
const LOOKED_AT = 64;

/**
 * The page size of a database without a header: the one with which most places where pages begin look like pages, b-tree
 * headers with sound pointers. @returns null where less than a third of what is not empty does
 */
export async function toldPageSize(source: ByteSource): Promise<number | null> {
  let best: { pageSize: number; sound: number; share: number } | null = null;
  for (let pageSize = 512; pageSize <= 65_536; pageSize *= 2) {
    let sound = 0;
    let looked = 0;
    for await (const bytes of somePages(source, pageSize)) {
      if (bytes[0] === 0) continue;
      looked++;
      if (isBtreeType(bytes[0]) && isSoundPage(bytes, { pageSize, usable: pageSize })) sound++;
    }
    const share = looked === 0 ? 0 : sound / looked;
    if (sound >= 2 && share > 1 / 3 && (!best || sound * share > best.sound * best.share)) best = { pageSize, sound, share };
  }
  return best?.pageSize ?? null;
}

/** The encoding of its texts, as its tables' pages show it. */
export async function toldEncoding(source: ByteSource, form: PageForm): Promise<Encoding> {
  const told = new ToldEncoding();
  for await (const bytes of somePages(source, form.pageSize)) if (bytes[0] === PageType.tableLeaf) told.notePage(bytes, form);
  return told.encoding;
}

/** Pages from all over a database, but not the first one. */
async function* somePages(source: ByteSource, pageSize: number): AsyncGenerator<Uint8Array> {
  const pages = Math.floor(source.size / pageSize);
  const step = Math.max(1, Math.floor(pages / LOOKED_AT));
  for (let page = 1; page < pages; page += step) {
    const bytes = await readOr(source, page * pageSize, pageSize);
    if (bytes) yield bytes;
  }
}

/**
 * Do all cells of the page lie in it, from where its content begins, and one of them in its second half? Content grows from a page's end
 * ("Database File Format" §1.6): a page of half the size has none there.
 */
function isSoundPage(bytes: Uint8Array, form: PageForm): boolean {
  const page = btreePage(bytes, form);
  if (!page || page.cells === 0) return false;
  let lowest = form.usable;
  let highest = 0;
  for (let index = 0; index < page.cells; index++) {
    const at = cellAt(bytes, page, index, form);
    if (at < page.contentStart) return false;
    lowest = Math.min(lowest, at);
    highest = Math.max(highest, at);
  }
  return lowest - page.contentStart < form.usable / 2 && highest >= form.usable / 2;
}
