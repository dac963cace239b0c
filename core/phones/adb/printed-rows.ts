/** One row of a provider, by column. Null: the phone has no value there. */
export type ProviderRow = Readonly<Record<string, string | null>>;

/** Rows of one answer, and letters of one row, at most: a phone may send what it likes. */
const MAX_ROWS = 1_000_000;
const MAX_ROW = 16 * 1024 * 1024;
/** Letters of an answer that begins with no row: what went wrong stands there. */
const MAX_WORDS = 4096;

/**
 * Reads what the `content` command prints (Android Open Source Project, frameworks/base/cmds/content) as it comes: "Row: 0 _id=1, date=2, body=…". Values are
 * not escaped, so a row begins where the next number in order is followed by its first column, and a value ends where the
 * next asked column begins; the last column keeps everything, commas and line ends too.
 */
export class PrintedRows {
  readonly #columns: readonly string[];
  /** What is not read yet; it begins with a row, once one began. */
  #text = "";
  /** A row cannot end before this letter: it was looked at. */
  #from = 0;
  #begun = false;
  /** A carriage return at the end of a piece: the line feed that belongs to it may come in the next. */
  #held = "";
  count = 0;
  /** What was printed in place of rows. */
  words = "";

  constructor(columns: readonly string[]) {
    this.#columns = columns;
  }

  /** @returns the rows that are complete now. @throws RangeError for a row that has no end, or too many of them */
  push(piece: string): ProviderRow[] {
    const text = this.#held + piece;
    this.#held = text.endsWith("\r") ? "\r" : "";
    this.#text += (this.#held ? text.slice(0, -1) : text).replaceAll("\r\n", "\n");
    return this.#take();
  }

  /** @returns the last row, which nothing but the end of the answer ends */
  end(): ProviderRow[] {
    const rows = this.#take();
    if (this.#begun) rows.push(this.#row(this.#text.replace(/\n$/, "")));
    this.#text = "";
    return rows;
  }

  #take(): ProviderRow[] {
    if (!this.#begun) {
      const first = `Row: 0 ${this.#columns[0]}=`;
      if (!this.#text.startsWith(first)) {
        if (!first.startsWith(this.#text)) this.words = this.#text.slice(0, MAX_WORDS);
        if (this.#text.length > MAX_WORDS) this.#text = this.words;
        return [];
      }
      this.#begun = true;
    }
    const rows: ProviderRow[] = [];
    let at = 0;
    for (;;) {
      const marker = `\nRow: ${this.count + 1} ${this.#columns[0]}=`;
      const next = this.#text.indexOf(marker, Math.max(at, this.#from));
      if (next < 0) {
        this.#from = Math.max(at, this.#text.length - marker.length) - at;
        break;
      }
      rows.push(this.#row(this.#text.slice(at, next)));
      at = next + 1;
      this.#from = at;
      if (this.count >= MAX_ROWS) throw new RangeError(`it tells of more than ${MAX_ROWS} rows`);
    }
    if (at > 0) this.#text = this.#text.slice(at);
    if (this.#text.length > MAX_ROW) throw new RangeError(`its row ${this.count} does not end`);
    return rows;
  }

  #row(row: string): ProviderRow {
    this.count++;
    const values: Record<string, string | null> = {};
    let at = row.indexOf(`${this.#columns[0]}=`);
    for (const [index, column] of this.#columns.entries()) {
      const from = at + column.length + 1;
      const following = this.#columns[index + 1];
      const next = following ? row.indexOf(`, ${following}=`, from) : -1;
      const value = row.slice(from, next < 0 ? row.length : next);
      values[column] = value === "NULL" ? null : value;
      at = next < 0 ? row.length : next + 2;
    }
    return values;
  }
}
