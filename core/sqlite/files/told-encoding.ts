import { type Cell, cellsOf } from "../format/cell.ts";
import { btreePage, type PageForm } from "../format/page.ts";
import { Class, classOf, type Encoding, serialBytes } from "../format/record.ts";
import { looksLikeText } from "../format/text.ts";

/** Texts are told by so many of their bytes: the first ones. */
const MOST = 256;

/**
 * The encoding of a database's texts, told from the texts themselves: where no header says it. UTF-8 is tried first, since any text in it reads
 * as some text in UTF-16. Which byte of a unit is the high one is told by its values: one script has few of them (The Unicode Standard, §3.10).
 */
export class ToldEncoding {
  #utf8 = 0;
  #utf16 = 0;
  /** Values of first and second bytes of units, in texts that are not UTF-8. */
  readonly #first = new Set<number>();
  readonly #second = new Set<number>();

  /** All texts of a page's cells; a page that is none tells nothing. */
  notePage(bytes: Uint8Array, form: PageForm, header = 0): void {
    const page = btreePage(bytes, form, header);
    if (page) for (const cell of cellsOf(bytes, page, form)) this.#noteCell(bytes, cell);
  }

  #noteCell(bytes: Uint8Array, { types, body, local }: Cell): void {
    let at = body;
    for (const type of types) {
      const length = serialBytes(type);
      const end = Math.min(at + length, at + MOST, body + local);
      if (classOf(type) === Class.text && end - at >= 2) this.#note(bytes, at, end, end - at < length);
      at += length;
      if (at >= body + local) return;
    }
  }

  #note(bytes: Uint8Array, from: number, to: number, cut: boolean): void {
    if (looksLikeText(bytes, from, to, cut, "utf-8")) {
      this.#utf8++;
      return;
    }
    this.#utf16++;
    for (let at = from; at + 2 <= to; at += 2) {
      this.#first.add(bytes[at]);
      this.#second.add(bytes[at + 1]);
    }
  }

  get encoding(): Encoding {
    if (this.#utf16 <= this.#utf8) return "utf-8";
    return this.#first.size < this.#second.size ? "utf-16be" : "utf-16le";
  }
}
