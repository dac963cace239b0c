import type { DatabaseFiles, PageImage } from "../files/database-files.ts";
import { type PageLedger, Role } from "../files/page-ledger.ts";
import { isBtreeType } from "../format/layout.ts";
import { u32 } from "../format/page.ts";

/** Images of pages that are tried for one long row. */
const MAX_TRIES = 256;
/** Pages of one row at most: 64 MiB in pages of 512 bytes. */
const MAX_CHAIN = 140_000;

/** Follows long rows through their overflow pages ("Database File Format" §1.6), in older images of the pages too. */
export class Overflow {
  readonly #db: DatabaseFiles;
  readonly #ledger: PageLedger;
  readonly #older = new Map<number, PageImage[]>();

  constructor(db: DatabaseFiles, ledger: PageLedger) {
    this.#db = db;
    this.#ledger = ledger;
    for (const image of db.beside) {
      const list = this.#older.get(image.page);
      if (list) list.push(image);
      else this.#older.set(image.page, [image]);
    }
  }

  /**
   * The bytes of a live row that do not lie in its own page, and the pages they lie in, which are taken for it.
   * @returns null where the chain is broken
   */
  async live(first: number, bytes: number): Promise<Uint8Array | null> {
    const each = this.#db.form.usable - 4;
    const rest = new Uint8Array(Math.min(bytes, each * MAX_CHAIN));
    let page = first;
    for (let done = 0; done < rest.length; done += each) {
      const read = page >= 2 && page <= this.#db.pages ? await this.#db.readCurrent(page) : null;
      if (!read) return null;
      this.#ledger.take(page, Role.overflow);
      rest.set(read.subarray(4, 4 + Math.min(each, rest.length - done)), done);
      page = nextOf(read);
    }
    return rest;
  }

  /**
   * The same of an erased row: a chain that is exactly as long as it must be, over images from the time of the row where there
   * are any. `isRight` decides between chains. @returns null where no chain is left
   */
  async erased(first: number, bytes: number, age: number, isRight: (rest: Uint8Array) => boolean): Promise<Uint8Array | null> {
    const each = this.#db.form.usable - 4;
    const pages = Math.ceil(bytes / each);
    if (pages > MAX_CHAIN) return null;
    let tries = 0;
    const chain: Uint8Array[] = [];
    /** For each page of the chain the images that are still to be tried. */
    const open: PageImage[][] = [this.#imagesOf(first, age)];
    while (open.length > 0) {
      const image = open[open.length - 1].shift();
      if (!image || ++tries > MAX_TRIES + pages) {
        open.pop();
        chain.pop();
        continue;
      }
      const read = await this.#db.read(image);
      if (!read || isBtreeType(read[0])) continue;
      const next = nextOf(read);
      const isLast = open.length === pages;
      if (isLast !== (next === 0)) continue;
      chain.length = open.length - 1;
      chain.push(read);
      if (!isLast) {
        open.push(this.#imagesOf(next, age));
        continue;
      }
      const rest = new Uint8Array(bytes);
      chain.forEach((one, index) => {
        rest.set(one.subarray(4, 4 + Math.min(each, bytes - index * each)), index * each);
      });
      if (isRight(rest)) return rest;
    }
    return null;
  }

  /** Images of a page that may be a link of a row of this age: those of its time first, newest first. */
  #imagesOf(page: number, age: number): PageImage[] {
    if (page < 2) return [];
    const images = [...(this.#older.get(page) ?? [])];
    if (page <= this.#db.mainPages) images.push(this.#db.mainImage(page));
    return images
      .filter(({ current }) => !current || this.#isFree(page))
      .sort((a, b) => Number(a.age > age) - Number(b.age > age) || b.age - a.age);
  }

  #isFree(page: number): boolean {
    const role = this.#ledger.roleOf(page);
    return role === Role.free || role === Role.none;
  }
}

/** The next page of a chain: the first number of an overflow page. */
const nextOf = (bytes: Uint8Array): number => u32(bytes, 0);
