import type { Trouble } from "../bytes/trouble.ts";
import type { DatabaseFiles, PageImage } from "./files/database-files.ts";
import { noPlaces, placeCell, readCell } from "./format/cell.ts";
import { type BtreePage, btreePage, cellAt, headerAt } from "./format/page.ts";
import type { Table } from "./format/schema.ts";
import { isSameRow, type Read, readValues, type Values } from "./format/values.ts";
import { examinePage } from "./free-space/examine-page.ts";
import { type FoundRow, fingerprint, typesPrint } from "./free-space/found-row.ts";
import { type Candidate, CandidateBook } from "./rows/candidates.ts";
import { aloneRow, decode, type Judging, rowsOfGroup } from "./rows/erased-rows.ts";
import { IndexHints } from "./rows/index-hints.ts";
import { LostRanges } from "./rows/lost-ranges.ts";
import { evidenceOf, LiveRow, NO_VERSIONS, type Row, type RowPage, type Version } from "./rows/row.ts";
import { readWhole } from "./rows/row-reader.ts";
import { strongPrint } from "./rows/strong-print.ts";
import { Overflow } from "./survey/overflow.ts";
import { SCHEMA_TABLE } from "./survey/read-schema.ts";
import { Survey } from "./survey/survey.ts";
import type { TableFit } from "./tables/fit.ts";

export interface RecoverBatch {
  readonly rows: readonly Row[];
  readonly troubles: readonly Trouble[];
  /** Page images looked at, of all. */
  readonly done: number;
  readonly total: number;
}

/** Rows handed on at once. */
const BATCH = 512;
/** Page images between two batches. */
const STEP = 256;

/**
 * Every row of a database: those that a reader sees, and those that were erased, once each, with their versions. `known`:
 * tables that erased pages may be of where the database does not know its own. Stops between two pages when `signal` aborts.
 * Source: "Database File Format" of SQLite
 */
export async function* recoverRows(db: DatabaseFiles, known: readonly Table[], signal: AbortSignal): AsyncGenerator<RecoverBatch> {
  yield* new Recovery(await Survey.of(db, known)).run(signal);
}

class Recovery {
  readonly #db: DatabaseFiles;
  readonly #survey: Survey;
  readonly #overflow: Overflow;
  readonly #book = new CandidateBook();
  readonly #hints = new IndexHints();
  readonly #lost = new LostRanges();
  #done = 0;

  constructor(survey: Survey) {
    this.#db = survey.db;
    this.#survey = survey;
    this.#overflow = new Overflow(survey.db, survey.ledger);
  }

  *#images(): Generator<PageImage> {
    for (let page = 1; page <= this.#db.mainPages; page++) yield this.#db.mainImage(page);
    yield* this.#db.beside;
  }

  #batch(rows: readonly Row[]): RecoverBatch {
    const total = this.#db.mainPages + this.#db.beside.length + this.#survey.livePageCount;
    return { rows, troubles: this.#survey.troubles.splice(0), done: Math.min(this.#done, total), total };
  }

  async *run(signal: AbortSignal): AsyncGenerator<RecoverBatch> {
    for (const image of this.#images()) {
      if (this.#done++ % STEP === 0) {
        signal.throwIfAborted();
        yield this.#batch([]);
      }
      const bytes = this.#db.atHand(image) ?? (await this.#db.read(image));
      if (bytes) this.#note(bytes, image);
      else if (image.file === "main") this.#trouble("a page cannot be read", image.at);
    }
    let rows: Row[] = [];
    for await (const some of this.#rows()) {
      for (const row of some) rows.push(row);
      if (rows.length < BATCH) continue;
      signal.throwIfAborted();
      yield this.#batch(rows);
      rows = [];
    }
    yield this.#batch(rows);
  }

  #trouble(what: string, at: number): void {
    this.#survey.troubles.push({ what, at, length: this.#db.form.pageSize });
  }

  async *#rows(): AsyncGenerator<readonly Row[]> {
    for (const { page, fit } of this.#survey.livePages()) {
      this.#done++;
      yield await this.#liveRows(page, fit);
    }
    const judging: Judging = {
      db: this.#db,
      overflow: this.#overflow,
      book: this.#book,
      isIndexed: (fit, rowid) => this.#survey.isIndexed(fit, rowid),
      mayBeLost: ({ fit, rowid, unallocated }: Candidate) => this.#lost.holds(fit, rowid, unallocated),
    };
    for (const group of this.#book.groups()) {
      if (group[0].fit.table === SCHEMA_TABLE) continue;
      const alone = group.length === 1 ? await aloneRow(group[0], judging) : null;
      const rows = alone ? [alone] : await rowsOfGroup(group, judging);
      if (!this.#hints.isEmpty) for (const row of rows) this.#hints.told(row);
      yield rows;
    }
    yield [...this.#hints.rest()];
  }

  /** Takes note of what a page image holds that a reader does not see. */
  #note(bytes: Uint8Array, image: PageImage): void {
    const { form, encoding } = this.#db;
    const { ledger, shapes } = this.#survey;
    const owner = ledger.ownerOf(image.page);
    const context = { shapes, form, encoding, image, role: ledger.roleOf(image.page), owner: shapes.ofIndex(owner) };
    for (const row of examinePage(bytes, context)) {
      if (row.fit.indexOf) this.#hint(row, row.fit.indexOf, bytes, image);
      else this.#book.add(row, bytes, image);
    }
  }

  #hint(row: FoundRow, of: NonNullable<TableFit["indexOf"]>, bytes: Uint8Array, image: PageImage): void {
    if (row.how === "cut" || row.local < row.bodyBytes) return;
    const { values } = readValues(row.fit.table, row.types, bytes, row.body, row.local, null, this.#db.encoding);
    this.#hints.add(of, values, evidenceOf({ ...row, image }));
  }

  async #liveRows(page: number, fit: TableFit): Promise<readonly Row[]> {
    const rows = page === 0 ? null : await this.#rowsOf(page, fit);
    if (rows?.length === 0) return rows;
    const [first, last] = rows ? [rows[0].rowid, rows[rows.length - 1].rowid] : [null, null];
    // Rows without row ids say nothing of what lies between two pages.
    if (!rows) this.#lost.page(fit, null);
    else if (first !== null && last !== null) this.#lost.page(fit, { first: Number(first), last: Number(last) });
    return rows ?? [];
  }

  /** @returns null where the page is missing */
  async #rowsOf(page: number, fit: TableFit): Promise<Row[] | null> {
    const { form } = this.#db;
    const image = this.#db.currentImage(page);
    const bytes = image && (this.#db.atHand(image) ?? (await this.#db.read(image)));
    const header = bytes && btreePage(bytes, form, headerAt(page));
    if (!image || !bytes || !header) {
      this.#trouble(`a page of ${fit.table.name} is missing or broken`, (page - 1) * form.pageSize);
      return null;
    }
    const rows: Row[] = [];
    const family = this.#book.familyOf(fit);
    const hints = this.#hints.of(fit);
    const shared = this.#rowPage(fit.table, image, bytes, header);
    for (let index = 0; index < header.cells; index++) {
      const at = cellAt(bytes, header, index, form);
      if (at === 0 || !placeCell(bytes, header, at, form, this.#places)) {
        this.#trouble(`a row of ${fit.table.name} is broken`, image.at + at);
        continue;
      }
      const { rowid, header: types, body, local, spills } = this.#places;
      // A row id that is in use: what entries of indexes say of it is of a row that is there.
      if (rowid !== null) hints?.delete(rowid);
      let others = NONE;
      if (family >= 0 && this.#book.maySpeakOf(family, rowid, bytes, types, body, local)) {
        const kinds = typesPrint(bytes, types, body);
        const earlier = this.#book.live(fit, rowid, fingerprint(kinds, bytes, body, local));
        this.#book.markParts(kinds, bytes, body, local);
        const nameless = this.#book.namelessOf(fit, strongPrint(bytes, types, body, local));
        if (earlier.length + nameless.length > 0) others = [...earlier, ...nameless];
      }
      // A row that goes on in overflow pages is read at once, since they must be asked for.
      const read = spills ? await this.#long(fit.table, bytes, header, at) : null;
      const now = read ?? (others.length > 0 ? shared.read(at) : null);
      const versions = now && others.length > 0 ? await this.#versions(others, now.values) : NO_VERSIONS;
      rows.push(new LiveRow(shared, at, rowid, versions, now));
    }
    return rows;
  }

  readonly #places = noPlaces();

  /** A page whose rows are told of; those that lie in it alone are read from it. */
  #rowPage(table: Table, image: PageImage, bytes: Uint8Array, page: BtreePage): RowPage {
    const { form, encoding } = this.#db;
    return {
      table,
      image,
      bytes,
      read(at) {
        const cell = readCell(bytes, page, at, form);
        return cell ? readValues(table, cell.types, bytes, cell.body, cell.local, cell.rowid, encoding) : NOTHING_READ;
      },
    };
  }

  /** The values of a row that goes on in overflow pages. Null: it is no sound one. */
  async #long(table: Table, bytes: Uint8Array, page: BtreePage, at: number): Promise<Read | null> {
    const { form, encoding } = this.#db;
    const cell = readCell(bytes, page, at, form);
    if (!cell) return null;
    return readWhole(table, bytes, cell, this.#overflow, encoding);
  }

  /** Which of the other contents of a live row's id are versions of it; the others are rows of their own. */
  async #versions(earlier: readonly number[], now: Values): Promise<readonly Version[]> {
    const versions: Version[] = [];
    const candidates = earlier.map((index) => this.#book.at(index)).sort((a, b) => b.age - a.age);
    for (const one of candidates) {
      const decoded = await decode(one, { db: this.#db, overflow: this.#overflow });
      if (!decoded || !isSameRow(decoded.values, now)) continue;
      this.#book.markLive(one.index);
      if (!one.partial) versions.push({ values: decoded.values, evidence: evidenceOf(one) });
    }
    return versions;
  }
}

const NONE: readonly number[] = [];
/** What is read of a cell that is none. */
const NOTHING_READ: Read = { values: [], complete: false };
