import type { Values } from "../format/values.ts";
import type { TableFit } from "../tables/fit.ts";
import type { Row, RowEvidence } from "./row.ts";

/** A text of fewer characters tells nobody anything. */
const SHORTEST = 4;
const MAX_HINTS = 1_000_000;

interface Hint {
  /** In the order in which hints were noted. */
  readonly number: number;
  readonly fit: TableFit;
  readonly rowid: number | bigint;
  readonly values: Values;
  readonly evidence: RowEvidence[];
}

/** What erased entries of indexes still say of rows whose own bytes are gone: a few of their values, and their row ids. */
export class IndexHints {
  readonly #hints = new Map<TableFit, Map<number | bigint, Hint>>();
  /** Hints by each text that they hold: a row whose id is lost is known by its texts. */
  readonly #byText = new Map<string, Hint[]>();
  #count = 0;

  /** Notes an erased entry: the values of the index's columns, the row id last. */
  add({ fit, columns }: NonNullable<TableFit["indexOf"]>, entry: Values, evidence: RowEvidence): void {
    const rowid = entry.at(-1);
    if ((typeof rowid !== "number" && typeof rowid !== "bigint") || this.#count >= MAX_HINTS) return;
    if (!entry.some((value) => typeof value === "string" && value.length >= SHORTEST)) return;
    let rows = this.#hints.get(fit);
    if (!rows) {
      rows = new Map();
      this.#hints.set(fit, rows);
    }
    let hint = rows.get(rowid);
    if (!hint) {
      hint = { number: this.#count, fit, rowid, values: new Array(fit.table.columns.length).fill(undefined), evidence: [] };
      if (fit.table.rowidColumn >= 0) hint.values[fit.table.rowidColumn] = rowid;
      rows.set(rowid, hint);
      this.#count++;
    }
    // What an older entry said is not mixed with what a newer one says: the first one counts.
    const { values } = hint;
    if (columns.some((column, place) => values[column] !== undefined && values[column] !== entry[place])) return;
    for (const [place, column] of columns.entries()) {
      const value = entry[place];
      if (values[column] === undefined && typeof value === "string") this.#noteText(value, hint);
      values[column] = value;
    }
    hint.evidence.push(evidence);
  }

  get isEmpty(): boolean {
    return this.#count === 0;
  }

  /** What is noted of a table's rows, by their row ids: those that are in use are taken out. Undefined: nothing. */
  of(fit: TableFit): Map<number | bigint, unknown> | undefined {
    return this.#hints.get(fit);
  }

  #noteText(text: string, hint: Hint): void {
    const hints = this.#byText.get(text);
    if (hints) hints.push(hint);
    else this.#byText.set(text, [hint]);
  }

  /** A row that was told of with more of its values: by its row id, or, where that is lost, by what it holds. */
  told(row: Row): void {
    if (row.rowid !== null) {
      for (const [fit, rows] of this.#hints) if (fit.table === row.table) rows.delete(row.rowid);
      return;
    }
    const { rowidColumn } = row.table;
    const says = ({ fit, rowid, values }: Hint) =>
      fit.table === row.table &&
      this.#hints.get(fit)?.has(rowid) &&
      values.every((value, column) => value === undefined || column === rowidColumn || value === row.values[column]);
    // Of several that say the same the one that was noted first.
    let first: Hint | null = null;
    for (const value of row.values)
      for (const hint of typeof value === "string" ? (this.#byText.get(value) ?? []) : [])
        if ((!first || hint.number < first.number) && says(hint)) first = hint;
    if (first) this.#hints.get(first.fit)?.delete(first.rowid);
  }

  /** What is left: rows of which nothing but this is known. */
  *rest(): Generator<Row> {
    for (const [{ table }, rows] of this.#hints)
      for (const { rowid, values, evidence } of rows.values())
        yield { table, state: "erased", condition: "remnant", rowid, values, evidence, versions: [] };
  }
}
