import { cachedSource, type KeptSource } from "../../bytes/cached-source.ts";
import { type ByteSource, readOr } from "../../bytes/source.ts";
import type { Trouble } from "../../bytes/trouble.ts";
import { DatabaseHeader, isPageSize, MAGIC, pageSizeOf } from "../format/layout.ts";
import type { PageForm } from "../format/page.ts";
import type { Encoding } from "../format/record.ts";
import { toldEncoding, toldPageSize } from "./headerless.ts";
import { readJournal } from "./journal.ts";
import { readWal } from "./wal.ts";

/** A database and the files beside it. */
export interface DatabaseSources {
  readonly main: ByteSource;
  readonly wal?: ByteSource;
  readonly journal?: ByteSource;
}

export type FileName = "main" | "wal" | "journal";

/** One image of one page: the one that counts now, or an older one. */
export interface PageImage {
  /** Number of the page. */
  readonly page: number;
  readonly file: FileName;
  /** Byte offset of the page in its file. */
  readonly at: number;
  /** It is what a reader of the database sees. */
  readonly current: boolean;
  /** Larger: newer. */
  readonly age: number;
  /** The same for all pages of one transaction. */
  readonly commit: number;
  /** The transaction in which the page was written next; null: it was not. */
  readonly until: number | null;
}

/** What is in the main file: newer than a journal and what a log held before it was begun anew, older than what the log holds. */
const MAIN = 1_000_000_000;
const IN_LOG = 2_000_000_000;
/** A rollback journal holds its pages as they all were before one transaction ("Database File Format" §3). */
const IN_JOURNAL = -1;

/** Reserved bytes at a page's end at most: a page keeps at least 480 usable ones ("Database File Format" §1.3.4). */
const LEAST_USABLE = 480;
const ENCODINGS: Record<number, Encoding> = { 1: "utf-8", 2: "utf-16le", 3: "utf-16be" };
const MAX_PAGES = 0x7fff_fffe;

/** What is kept of a database's files: they are mostly gone through in order, and whoever reads them reads other media too. */
const KEPT = { mostAhead: 512 * 1024, pieces: 4, oneAhead: true };
const kept = (source: ByteSource): KeptSource => cachedSource(source, undefined, KEPT);

/** A database that can be read: its pages, and all older images of them. Nothing is ever written. */
export class DatabaseFiles {
  readonly form: PageForm;
  readonly encoding: Encoding;
  /** Pages that a reader sees. */
  readonly pages: number;
  /** Page 1 begins with a header that makes sense. */
  readonly hasHeader: boolean;
  readonly header: Uint8Array;
  readonly troubles: Trouble[];
  /** Every image of every page of the log and the journal, in no order; those of the main file are counted, not listed. */
  readonly beside: readonly PageImage[];
  readonly #sources: Record<FileName, KeptSource | null>;
  readonly #current = new Map<number, PageImage>();
  /** In which transaction of the log each page that it holds was written first. */
  readonly #firstInLog = new Map<number, number>();
  /** Pages of the main file, the last one perhaps not whole. */
  readonly mainPages: number;

  private constructor(
    sources: Record<FileName, KeptSource | null>,
    about: {
      form: PageForm;
      encoding: Encoding;
      pages: number;
      hasHeader: boolean;
      header: Uint8Array;
      beside: PageImage[];
      troubles: Trouble[];
    },
  ) {
    this.#sources = sources;
    this.form = about.form;
    this.encoding = about.encoding;
    this.pages = about.pages;
    this.hasHeader = about.hasHeader;
    this.header = about.header;
    this.beside = about.beside;
    this.troubles = about.troubles;
    for (const image of about.beside) {
      if (image.current) this.#current.set(image.page, image);
      if (image.commit > MAIN) this.#firstInLog.set(image.page, Math.min(image.commit, this.#firstInLog.get(image.page) ?? image.commit));
    }
    this.mainPages = Math.ceil((sources.main?.size ?? 0) / about.form.pageSize);
  }

  /** Opens a database, also one whose header is lost. @returns null where nothing says that it is one */
  static async open(given: DatabaseSources): Promise<DatabaseFiles | null> {
    const sources = {
      main: kept(given.main),
      wal: given.wal && given.wal.size > 0 ? kept(given.wal) : null,
      journal: given.journal && given.journal.size > 0 ? kept(given.journal) : null,
    };
    const troubles: Trouble[] = [];
    const wal = sources.wal && (await readWal(sources.wal));
    if (sources.wal && !wal) troubles.push({ what: "the write-ahead log has no header: it is not read", at: 0, length: 0 });
    let header: Uint8Array = new Uint8Array(DatabaseHeader.size);
    if (given.main.size >= DatabaseHeader.size) header = (await readOr(sources.main, 0, DatabaseHeader.size)) ?? header;
    // A log may hold a newer page 1, or the only one.
    const newest = wal?.frames.findLast(({ page, current }) => page === 1 && current);
    if (newest && sources.wal) header = await sources.wal.read(newest.at, DatabaseHeader.size);
    const said = pageSizeOf(DatabaseHeader.pageSize(header, 0));
    const hasHeader = DatabaseHeader.magic(header, 0) === MAGIC && isPageSize(said);
    const pageSize = hasHeader ? said : (wal?.pageSize ?? (await toldPageSize(sources.main)));
    if (pageSize === null) return null;
    if (wal && wal.pageSize !== pageSize)
      troubles.push({ what: "the write-ahead log has pages of another size: it is not of this database", at: 0, length: 0 });
    const reserved = hasHeader ? DatabaseHeader.reservedBytes(header, 0) : 0;
    const form = { pageSize, usable: pageSize - (pageSize - reserved >= LEAST_USABLE ? reserved : 0) };
    const mainPages = Math.ceil(given.main.size / pageSize);
    if (!hasHeader && given.main.size > 0)
      troubles.push({
        what: "the first page has no header: page size and encoding were told from the other pages",
        at: 0,
        length: DatabaseHeader.size,
      });
    const frames = wal && wal.pageSize === pageSize ? wal.frames : [];
    troubles.push(...(wal?.troubles ?? []));
    const lastCommit = frames.findLast(({ current, pagesAfter }) => current && pagesAfter > 0);
    const journal = sources.journal && (await readJournal(sources.journal, pageSize, Math.max(mainPages, 1) * 4));
    const oldPages = journal && journal.pageSize === pageSize ? journal.pages : [];
    const inHeader = DatabaseHeader.pageCount(header, 0);
    // §1.3.8: the size in the header counts only if the change counter says that it is up to date.
    const counted = hasHeader && inHeader > 0 && DatabaseHeader.changeCounter(header, 0) === DatabaseHeader.versionValidFor(header, 0);
    const pages = lastCommit?.pagesAfter ?? journal?.pagesBefore ?? (counted ? inHeader : mainPages);
    const seen = new Set<number>();
    const beside: Omit<PageImage, "until">[] = [];
    let commit = IN_LOG + frames.length;
    for (let index = frames.length - 1; index >= 0; index--) {
      const { page, at, current, pagesAfter } = frames[index];
      const counts = current && page <= pages && !seen.has(page);
      if (counts) seen.add(page);
      // What was checkpointed before the log was begun anew is older than what the main file holds.
      const age = current ? IN_LOG + index : index;
      // Its last frame ends a transaction (§4.1).
      if (pagesAfter > 0 || (!current && commit >= IN_LOG)) commit = age;
      beside.push({ page, file: "wal", at, current: counts, age, commit });
    }
    for (const [index, { page, at, hot }] of oldPages.entries()) {
      const counts = hot && !seen.has(page) && page <= pages;
      if (counts) seen.add(page);
      beside.push({ page, file: "journal", at, current: counts, age: index - oldPages.length, commit: IN_JOURNAL });
    }
    if (hasHeader && mainPages < pages && !lastCommit)
      troubles.push({
        what: `the database is cut off: ${pages - mainPages} of its ${pages} pages are missing`,
        at: given.main.size,
        length: 0,
      });
    const encoding = hasHeader ? ENCODINGS[DatabaseHeader.textEncoding(header, 0)] : await toldEncoding(sources.main, form);
    return new DatabaseFiles(sources, {
      form,
      encoding: encoding ?? "utf-8",
      pages: Math.min(pages, MAX_PAGES),
      hasHeader,
      header,
      beside: withNext(beside, mainPages),
      troubles,
    });
  }

  /** The image of a page that a reader sees, or null where it lies behind the end. */
  currentImage(page: number): PageImage | null {
    const newer = this.#current.get(page);
    if (newer) return newer;
    return page >= 1 && page <= this.mainPages ? this.mainImage(page) : null;
  }

  /** The image of a page in the main file. */
  mainImage(page: number): PageImage {
    const current = !this.#current.has(page) && page <= this.pages;
    return {
      page,
      file: "main",
      at: (page - 1) * this.form.pageSize,
      current,
      age: MAIN,
      commit: MAIN,
      until: this.#firstInLog.get(page) ?? null,
    };
  }

  /** The image of a page that holds this byte of a file. */
  imageAt(file: FileName, page: number, at: number): PageImage | undefined {
    if (file === "main") return this.mainImage(page);
    return this.beside.find((one) => one.file === file && one.at <= at && at < one.at + this.form.pageSize);
  }

  /** Bytes of a page image that are at hand already: what is read page by page is mostly not waited for. Null: `read` them. */
  atHand({ file, at }: PageImage): Uint8Array | null {
    const source = this.#sources[file];
    return source && at + this.form.pageSize <= source.size ? source.peek(at, this.form.pageSize) : null;
  }

  /** Bytes of a page image, zeros behind the end of a file that is cut off in it. @returns null where they cannot be read */
  async read({ file, at }: PageImage): Promise<Uint8Array | null> {
    const source = this.#sources[file];
    if (!source || at >= source.size) return null;
    const { pageSize } = this.form;
    const there = Math.min(pageSize, source.size - at);
    const bytes = await readOr(source, at, there);
    if (!bytes || there === pageSize) return bytes;
    const whole = new Uint8Array(pageSize);
    whole.set(bytes);
    return whole;
  }

  #latest: { readonly image: PageImage; readonly bytes: Promise<Uint8Array | null> } | null = null;

  /** The same for an image that is asked for again and again, before another one is. */
  readAgain(image: PageImage): Promise<Uint8Array | null> {
    if (this.#latest?.image !== image) this.#latest = { image, bytes: this.read(image) };
    return this.#latest.bytes;
  }

  async readCurrent(page: number): Promise<Uint8Array | null> {
    const image = this.currentImage(page);
    return image && this.read(image);
  }
}

/** Images of pages, each with when its page was written next. */
function withNext(images: readonly Omit<PageImage, "until">[], mainPages: number): PageImage[] {
  const next = new Map<number, number>();
  const newestFirst = images.map((image, number) => ({ image, number })).sort((a, b) => b.image.age - a.image.age);
  const untils = new Array<number | null>(images.length).fill(null);
  for (const { image, number } of newestFirst) {
    const { page, age, commit } = image;
    const newer = next.get(page) ?? null;
    // Between what is older and what the log holds stands what the main file holds.
    untils[number] = age < MAIN && page <= mainPages && (newer === null || newer > MAIN) ? MAIN : newer;
    next.set(page, commit);
  }
  return images.map((image, number) => ({ ...image, until: untils[number] }));
}
