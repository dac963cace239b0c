import type { Remote } from "comlink";
import { wrap } from "comlink";
import { Contents, contentBytes } from "../../../core/archives/stream.ts";
import { PassphraseNeeded } from "../../../core/backup/unpack.ts";
import { hashOf, portableSha256 } from "../../../core/bytes/hash.ts";
import { patientSource, unreadableIn } from "../../../core/bytes/patient-source.ts";
import { holed, holesIn } from "../../../core/bytes/ranges.ts";
import type { ByteSource } from "../../../core/bytes/source.ts";
import { formatNamed } from "../../../core/filetypes/table.ts";
import type { RecordEvidence } from "../../../core/finds/record.ts";
import type { OpenMedium } from "../../../core/handover/item.ts";
import { isSameSample, sampleOf, wholeSampleOf } from "../../../core/medium/sample.ts";
import { type ByHand, NOTHING_SAID } from "../../../core/stores/mapping/by-hand.ts";
import { database, loadJob, loadMedia, loadMedium } from "../../kept/database.ts";
import type { SourceRef } from "../../kept/medium.ts";
import { Line } from "../../kept/news.ts";
import type { IndexDesk } from "../finds/index-desk.ts";
import { type Found, IN_A_ROW, WRITTEN } from "../finds/protocol.ts";
import type { Coded } from "../looking/codecs.ts";
import { type Player, playerOf } from "../looking/decodable.ts";
import type { Grant, Outcome } from "../storage/grant.ts";
import { isServed, openGrant } from "../storage/open-grant.ts";
import { PlaceLink } from "../storage/place-link.ts";
import { asCopy, asParts } from "./as-blob.ts";
import { cellFind } from "./cell.ts";
import { decoders, MOST_BYTES } from "./decoders.ts";
import { entriesIn } from "./entries.ts";
import { giveBack } from "./give-back.ts";
import { keepMeaning } from "./keep-meaning.ts";
import { keptRows } from "./kept-rows.ts";
import { MeaningDesk } from "./meaning-desk.ts";
import type { Kept, MeaningAnswer, MeaningOutcome, ReadMessages, Verdict } from "./meaning-protocol.ts";
import { drawPage, drawPreview, searchPages } from "./previews.ts";
import type {
  BytesAnswer,
  ContentAnswer,
  EntriesAnswer,
  HandOverNews,
  HandOverResult,
  InnerAnswer,
  MarkupAnswer,
  PageAnswer,
  PagesAnswer,
  PreviewAnswer,
  Target,
  TextAnswer,
} from "./protocol.ts";
import { servedAt } from "./served.ts";
import { TableDesk } from "./table-desk.ts";
import type { CellAnswer, ColumnHabit, PageView, ShownRow, TableAnswer, TableQuery, TablesOutcome } from "./tables-protocol.ts";
import { layOf, picturesIn, textOf } from "./texts.ts";
import { WrittenFinds } from "./written.ts";

const NO_STORAGE: Outcome = { ok: false, because: "The storage of this medium is not open." };

/** A medium that is open for reading. */
interface Opened extends OpenMedium {
  /** Null: it is no medium of the ticket, but what was written. */
  readonly link: PlaceLink | null;
  /** The storage as a file, where it is one. */
  readonly file: Blob | null;
  /** Where the own server gives it, where it does. */
  readonly address: string | null;
}

/**
 * Reads what is looked at and handed over, from all media of a ticket, with handles of its own: never in the way of a scan, and knowing of
 * bad places what a scan knows.
 */
export class ReadingDesk {
  readonly #opened = new Map<number, Opened>();
  readonly #line = new Line((notice) => {
    if (notice.type === "end") for (const medium of notice.media) this.detach(medium);
  });
  /** What was handed over last, as it stands where it was written. */
  readonly written = new WrittenFinds();
  #index: Remote<IndexDesk> | null = null;
  #tables: { readonly key: string; readonly desk: TableDesk } | null = null;
  #meaning: { readonly found: Found; readonly desk: MeaningDesk } | null = null;
  #opening: AbortController | null = null;

  /** The worker that knows the finds. */
  connect(port: MessagePort): void {
    this.use(wrap<IndexDesk>(port));
  }
  use(index: Remote<IndexDesk>): void {
    this.#index = index;
  }

  /** Opens a medium's storage and makes sure that it is its own. */
  async attach(id: number, grant: Grant): Promise<Outcome> {
    const medium = await loadMedium(id);
    if (!medium?.source) return NO_STORAGE;
    const raw = await openGrant(grant).catch((cause: unknown) => (cause instanceof Error ? cause : new Error(String(cause))));
    if (raw instanceof Error) return { ok: false, because: raw.message, passphrase: raw instanceof PassphraseNeeded };
    const link = await PlaceLink.open(id);
    const { name, size } = medium.source;
    if (raw.size !== size || !(await isTheSame(medium.source, raw, link))) {
      link.close();
      return { ok: false, because: `This is not the storage of this ticket: that was ${name} with ${size.toLocaleString("en")} bytes.` };
    }
    this.detach(id);
    const source = patientSource(raw, { ledger: link.ledger, now: () => performance.now() });
    const file = "blob" in raw && raw.blob instanceof Blob ? raw.blob : null;
    const address = isServed(raw) ? raw.address : null;
    this.#opened.set(id, { link, source, contents: new Contents(source), file, address });
    return { ok: true };
  }

  detach(id: number): void {
    this.#opened.get(id)?.link?.close();
    this.#opened.delete(id);
  }

  /** A preview no larger than `side` pixels, or why there is none. */
  async preview(found: Found, side: number): Promise<PreviewAnswer> {
    if (!this.#opened.has(found.medium)) return null;
    return this.#looked(found, (opened) =>
      drawPreview({ find: found, contents: opened.contents, film: () => this.#film(found, opened) }, side),
    );
  }

  /** A find's content for an element of the page that reads it itself. Nothing is copied where its storage is a file. */
  content = (found: Found): Promise<ContentAnswer> =>
    this.#looked(found, async (opened) => {
      const player = playerOf(found.format);
      if (player) return { content: await this.#inPlayedForm(found, opened, player), lost: [] };
      const lost = found.packed ? [] : holesIn(holed(found.extents, opened.source.unreadable));
      const address = opened.file ? null : await addressOf(found, opened);
      if (address) return { address, lost };
      const content = partsOf(found, opened) ?? (await asCopy(found, opened.contents.of(found), mediaOf(found)));
      return content
        ? { content, lost }
        : { word: "It is too large to be looked at before the storage was copied: make a working copy, or hand it over." };
    });

  /** What browsers do not play as it is, in a form that they do. @throws a word where that cannot be */
  async #inPlayedForm(found: Found, opened: Opened, { most }: Player): Promise<Blob> {
    if (found.size > most) throw new Error("It is too large to be played here: hand it over.");
    const film = (await this.#film(found, opened)) ?? (await asCopy(found, opened.contents.of(found), mediaOf(found)));
    if (film === null) throw new Error("It is too large to be played here: hand it over.");
    return decoders.run((desk) => desk.played(found.format, film));
  }

  /** A film for who reads a few places of it; null where it is not to be had without a copy. */
  #film = async (found: Found, opened: Opened): Promise<Blob | string | null> => partsOf(found, opened) ?? addressOf(found, opened);

  /** What a film's or sound's streams are coded in; empty where that cannot be told. */
  codecs = async (found: Found): Promise<Coded[]> => {
    const told = await this.#looked(found, async (opened) => {
      const film = await this.#film(found, opened);
      return film === null ? [] : decoders.run((desk) => desk.codecs(found.format, film));
    });
    return "word" in told ? [] : told;
  };

  /** The beginning of a text: what a screen can show of it. */
  text = (found: Found): Promise<TextAnswer> => this.#looked(found, ({ contents }) => textOf(found.format, contents.of(found), MOST_TEXT));

  /** The pictures that stand in a document, no side of them longer than `side`. */
  innerPictures = (found: Found, side: number): Promise<InnerAnswer> =>
    this.#looked(found, ({ contents }) => picturesIn(found.format, contents.of(found), side));

  /** Numbers of the pages of a document on which all of these words stand. */
  pagesWith = (found: Found, words: string): Promise<PagesAnswer> =>
    this.#looked(found, ({ contents }) => searchPages(contents.of(found), words));

  /** All bytes of something small. */
  bytes = (found: Found): Promise<BytesAnswer> =>
    this.#looked(found, async ({ contents }) => {
      const content = contents.of(found);
      if (content.size > MOST_BYTES) return { word: "It is too large to be looked at: hand it over." };
      return { bytes: (await content.read(0, content.size)).slice() };
    });

  /** What an archive or backup holds. */
  entries = (found: Found): Promise<EntriesAnswer> => this.#looked(found, ({ contents }) => entriesIn(found, contents));

  /** A page of the web, laid out. */
  markup = (found: Found): Promise<MarkupAnswer> => this.#looked(found, ({ contents }) => layOf(contents.of(found)));

  /** A page of a document, counted from 1. */
  documentPage = (found: Found, number: number, side: number): Promise<PageAnswer> =>
    this.#looked(found, ({ contents }) => drawPage(contents.of(found), number, side));

  /** Looks at a find, or says in a word why that cannot be. */
  async #looked<T>({ medium }: Found, look: (opened: Opened) => Promise<T>): Promise<T | { readonly word: string }> {
    const opened = this.#opened.get(medium);
    if (!opened) return { word: "The storage that it lies on is not open." };
    try {
      return await look(opened);
    } catch (cause) {
      return { word: cause instanceof Error ? cause.message : "it cannot be read" };
    }
  }

  /** Reads a find as tables; `notify` is told which part is done, 0 to 1. */
  async openTables(key: string, notify: (part: number) => void): Promise<TablesOutcome> {
    const found = (await this.#index?.find(key)) ?? null;
    if (!found) return { ok: false, because: "This find is not known any more." };
    const opened = this.#opened.get(found.medium);
    if (!opened) return { ok: false, because: "The storage that it lies on is not open: its tables are read from there." };
    if (this.#tables?.key === key) return { ok: true, tables: this.#tables.desk.tables() };
    this.#opening?.abort();
    this.#opening = new AbortController();
    try {
      const set = (await this.#index?.beside(key)) ?? [];
      const desk = await TableDesk.open(found, set, opened.source, await keptRows(found.medium, found.id), this.#opening.signal, notify);
      this.#tables = { key, desk };
      return { ok: true, tables: desk.tables() };
    } catch (cause) {
      return { ok: false, because: cause instanceof Error ? cause.message : String(cause) };
    }
  }

  async askTable(query: TableQuery): Promise<TableAnswer> {
    return this.#tables?.desk.ask(query) ?? { total: 0, present: 0, erased: 0, unclear: 0, edited: 0 };
  }

  /** What the columns of an open table hold. */
  async tableHabits(table: string): Promise<ColumnHabit[]> {
    return this.#tables?.desk.habits(table) ?? [];
  }

  async tableWindow(from: number, to: number): Promise<ShownRow[]> {
    return this.#tables?.desk.window(from, to) ?? [];
  }

  /** Opens the data that a row of the open tables holds in a column, as something that can be looked at. */
  async cell(row: string, column: string): Promise<CellAnswer> {
    const data = await this.#tables?.desk.data(row, column);
    if (!data) return { word: "This row is not at hand any more: click it again." };
    const { find, ...medium } = await cellFind(row, column, data);
    this.#opened.set(IN_A_ROW, { ...medium, link: null, address: null });
    return { find };
  }

  async pageOf(evidence: RecordEvidence): Promise<PageView | null> {
    return this.#tables?.desk.page(evidence) ?? null;
  }

  /** Opens a database so that somebody may say what it means. `notify` hears which part of it is read. */
  async openMeaning(key: string, notify: (part: number) => void): Promise<MeaningOutcome> {
    const found = (await this.#index?.find(key)) ?? null;
    const opened = found && this.#opened.get(found.medium);
    if (!found) return { ok: false, because: "This find is not known any more." };
    if (!opened) return { ok: false, because: "The storage that it lies on is not open: its rows are read from there." };
    this.#opening?.abort();
    this.#opening = new AbortController();
    try {
      const set = (await this.#index?.beside(key)) ?? [];
      const desk = await MeaningDesk.open(found, set, opened.source, this.#opening.signal, notify);
      this.#meaning = { found, desk };
      return { ok: true, answer: await desk.answer(NOTHING_SAID) };
    } catch (cause) {
      return { ok: false, because: cause instanceof Error ? cause.message : String(cause) };
    }
  }

  /** How the open database reads when this is said of it. */
  async readMeaning(said: ByHand): Promise<MeaningAnswer | null> {
    return (await this.#meaning?.desk.answer(said)) ?? null;
  }

  /** Messages of a conversation as they read with what was said last. */
  async meaningMessages(talk: string): Promise<ReadMessages> {
    return this.#meaning?.desk.messages(talk) ?? [];
  }

  async keepMeaning(job: number, verdict: Verdict): Promise<Kept> {
    if (!this.#meaning) return { ok: false, because: "No database is open." };
    return keepMeaning(job, this.#meaning.found, this.#meaning.desk, verdict);
  }

  /** Writes chosen finds, of whichever media, where the person said, and checks them. */
  async handOver(id: number, keys: readonly string[], target: Target, notify: (news: HandOverNews) => void): Promise<HandOverResult> {
    const job = await loadJob(id);
    if (!job || !this.#index) return { ok: false, because: "No storage of this ticket is open." };
    const hashes: [Found, string][] = [];
    const finds = await this.#index.findsOf([...keys]);
    const people = await this.#index.peopleOf([...keys]);
    const mediumOf = (medium: number) => this.#opened.get(medium) ?? null;
    const wants = await this.#index.wantsOf([...keys], [...job.intake.wants]);
    const answered = new Map(keys.map((key, at) => [key, wants[at] ?? []]));
    const giving = { job, media: await loadMedia(id), finds, people, answered, mediumOf };
    const result = await giveBack(
      giving,
      target,
      notify,
      (find, sha256) => hashes.push([find, sha256]),
      (files, folder) => this.#opened.set(WRITTEN, { ...this.written.take(files, folder), link: null, address: null }),
    );
    await this.#learned(id, hashes);
    return result;
  }

  /** Reads what may be one thing in two places of this ticket, so that it is known whether it is. @returns how many were read whole */
  async compare(job: number, keys: readonly string[]): Promise<number> {
    const sha256 = await portableSha256();
    const hashes: [Found, string][] = [];
    for (const found of (await this.#index?.findsOf([...keys])) ?? []) {
      const opened = this.#opened.get(found.medium);
      if (!opened || contentBytes(found) !== found.size) continue;
      const hash = await hashOf(opened.contents.of(found), sha256);
      // What did not read whole is the same as nothing.
      if (unreadableIn(opened.source, found.extents) === 0) hashes.push([found, hash]);
    }
    await this.#learned(job, hashes);
    return hashes.length;
  }

  /** Keeps hashes of finds, and tells them. */
  async #learned(job: number, hashes: readonly (readonly [Found, string])[]): Promise<void> {
    for (const medium of new Set(hashes.map(([{ medium: one }]) => one))) {
      const found = hashes.flatMap(([find, sha256]) => (find.medium === medium ? [[find.id, sha256] as const] : []));
      await database.transaction("rw", database.media, database.hashes, async () => {
        if (await database.media.get(medium)) await database.hashes.bulkPut(found.map(([find, sha256]) => ({ medium, find, sha256 })));
      });
      this.#line.say({ type: "hashes", job, medium, found });
      // One does not hear oneself.
      await this.#index?.learned(medium, found);
    }
  }
}

/** Bytes of a text that are shown. */
const MOST_TEXT = 512 * 1024;

const mediaOf = ({ format }: Found): string => formatNamed(format).media ?? "";

/** A find's content as parts of the file that its storage is; null where it is none, or the content is packed. */
const partsOf = (found: Found, { file, source }: Opened): Blob | null => file && asParts(found, file, source.unreadable, mediaOf(found));

/** An address that gives a find's content where its storage is the own server's; null where it is not. */
const addressOf = async (found: Found, { address, source }: Opened): Promise<string | null> =>
  address === null ? null : servedAt(found, address, source.unreadable, mediaOf(found));

/** Is it the storage that a ticket knows? A working copy in the browser's own storage is known by its name, and may have grown since. */
async function isTheSame({ kind, sample }: SourceRef, raw: ByteSource, { ledger }: PlaceLink): Promise<boolean> {
  if (kind === "copy") return true;
  const sha256 = await portableSha256();
  if (Array.isArray(sample)) return isSameSample(sample, await sampleOf(raw, sha256, ledger));
  const whole = await wholeSampleOf("beneath" in raw ? (raw.beneath as ByteSource) : raw, sha256, ledger);
  // Where a place does not read any more, one hash over all of them says nothing.
  return whole === null || whole === sample;
}
