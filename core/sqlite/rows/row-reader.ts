import type { DatabaseFiles } from "../files/database-files.ts";
import { PageLedger } from "../files/page-ledger.ts";
import { type Cell, readCell } from "../format/cell.ts";
import { type BtreePage, btreePage, headerAt } from "../format/page.ts";
import type { Encoding } from "../format/record.ts";
import type { Table } from "../format/schema.ts";
import { joined, type Read, readValues } from "../format/values.ts";
import { Overflow } from "../survey/overflow.ts";
import type { Row } from "./row.ts";
import type { RowColumns, RowPlace } from "./row-columns.ts";

/** What is read of a row whose page is gone since. */
const NOTHING: Read = { values: [], complete: false };

/** The values of a row that a reader sees, with those of them that lie in overflow pages. */
export async function readWhole(table: Table, bytes: Uint8Array, cell: Cell, overflow: Overflow, encoding: Encoding): Promise<Read> {
  const { types, body, local, rowid, bodyBytes } = cell;
  if (local === bodyBytes) return readValues(table, types, bytes, body, local, rowid, encoding);
  const rest = await overflow.live(cell.overflow, bodyBytes - local);
  const own = bytes.subarray(body, body + local);
  const whole = rest ? joined(own, rest) : own;
  return readValues(table, types, whole, 0, whole.length, rowid, encoding);
}

/** Reads rows that are kept as their places: values of living ones from their pages, one page after the other where they are asked for in their order. */
export class RowReader {
  readonly #db: DatabaseFiles;
  readonly #overflow: Overflow;
  #page: OpenPage | null = null;

  constructor(db: DatabaseFiles) {
    this.#db = db;
    this.#overflow = new Overflow(db, new PageLedger(db.mainPages));
  }

  async row(rows: RowColumns, number: number): Promise<Row> {
    const place = rows.placeOf(number);
    const rest = await rows.restOf(number);
    const { table, state } = place;
    const told = { table, rowid: rest?.rowid ?? place.rowid, state, versions: rest?.versions ?? [] };
    const among = rest?.among?.map((one) => rows.tables[one]);
    if (rest?.values)
      return { ...told, condition: place.condition, values: rest.values, evidence: rest.evidence ?? [], ...(among && { among }) };
    const { values, complete } = await this.#read(place);
    const { file, page, at } = place;
    return { ...told, condition: complete ? "whole" : "damaged", values, evidence: [{ what: "live", file, page, at }] };
  }

  async #read(place: RowPlace): Promise<Read> {
    // The page at hand may be another one by the time that overflow pages came: it is held here.
    const page = await this.#pageOf(place);
    const cell = page && readCell(page.bytes, page.header, place.at - page.at, this.#db.form);
    return cell ? readWhole(place.table, page.bytes, cell, this.#overflow, this.#db.encoding) : NOTHING;
  }

  async #pageOf({ file, page, at }: RowPlace): Promise<OpenPage | null> {
    const { pageSize } = this.#db.form;
    const known = this.#page;
    if (known && known.file === file && known.at <= at && at < known.at + pageSize) return known;
    const image = this.#db.imageAt(file, page, at);
    const bytes = image && (this.#db.atHand(image) ?? (await this.#db.read(image)));
    const header = bytes && btreePage(bytes, this.#db.form, headerAt(page));
    const open = image && bytes && header ? { file, at: image.at, bytes, header } : null;
    this.#page = open;
    return open;
  }
}

/** A page whose rows are read. */
interface OpenPage {
  readonly file: RowPlace["file"];
  readonly at: number;
  readonly bytes: Uint8Array;
  readonly header: BtreePage;
}
