import { onMedium } from "../../../core/bytes/extents.ts";
import type { PlaceLedger } from "../../../core/bytes/place-ledger.ts";
import { type ByteSource, UnusableError } from "../../../core/bytes/source.ts";
import type { Find } from "../../../core/finds/find.ts";
import { findKey } from "../../../core/finds/find-key.ts";
import { type Asked, goesOnFrom, stagesOf } from "../../../core/scan/checkpoint.ts";
import { scan } from "../../../core/scan/engine.ts";
import type { ScanBatch, ScanEvent, ScanOptions } from "../../../core/scan/events.ts";
import { Pace } from "../../../core/scan/pace.ts";
import { StorageMap } from "../../../core/scan/storage-map.ts";
import { SHIPPED } from "../../../core/stores/mapping/shipped.ts";
import type { Work } from "../../../core/work/conductor.ts";
import type { WorkState } from "../../../core/work/work-state.ts";
import { askedOf, type KeptScan, newScan, noCounts } from "../../kept/kept-scan.ts";
import { knownMappings } from "../../kept/known-mappings.ts";
import type { Medium } from "../../kept/medium.ts";
import type { News } from "../../kept/news.ts";
import { lacksRoom, NO_ROOM } from "../../kept/no-room.ts";
import { NotMine } from "../../kept/ownership.ts";
import { FindBook, PACK_FINDS } from "./find-book.ts";
import { Newest } from "./newest.ts";
import { NO_PEOPLE, PeopleBook } from "./people-book.ts";
import { RowBook } from "./row-book.ts";
import type { ScanKeeper } from "./scan-keeper.ts";

/** Milliseconds between news. */
const NEWS_EVERY = 200;
/** Cells of the storage map: 12 lines of 244. */
const MAP_CELLS = 12 * 244;
/** Databases that may be messengers: more than these nobody looks at. */
const MAX_PROPOSALS = 100;
/** Troubles kept: a dying medium has thousands, and nobody reads more. */
const MAX_TROUBLES = 500;

/** What a scan works with. */
export interface ScanTools {
  readonly medium: Medium;
  readonly source: ByteSource;
  readonly ledger: PlaceLedger;
  readonly keeper: ScanKeeper;
  readonly now: () => number;
  readonly tell: (news: Omit<News, "owner">) => void;
}

/** The scan of one medium as work that a conductor leads: takes what the engine tells into memory, and keeps it. */
export class ScanWork implements Work<ScanEvent> {
  readonly #tools: ScanTools;
  readonly #pace = new Pace();
  readonly #told = new Set<string>();
  #scan: KeptScan;
  #book: FindBook | null = null;
  #rows: RowBook | null = null;
  #people: PeopleBook | null = null;
  #map: StorageMap | null = null;
  #newest: Newest;
  #lastNews = 0;
  #lastTick = 0;
  /** Which version of the ledger of places is kept. */
  #placesKept = -1;

  constructor(tools: ScanTools) {
    this.#tools = tools;
    this.#scan = tools.medium.scan;
    this.#newest = new Newest(tools.medium.scan.newest);
  }

  get record(): KeptScan {
    return this.#scan;
  }

  /** What it goes over: wider than before, the rest is gone over; of another depth, everything anew, and what was found stays until that is done. */
  goOver({ depth, kinds, erasedOnly }: Asked): void {
    this.#scan = { ...this.#scan, depth, scope: { kinds, erasedOnly } };
  }

  async *begin(signal: AbortSignal): AsyncGenerator<ScanEvent, void> {
    const known = await knownMappings();
    const mappings = [...known.mappings, ...SHIPPED];
    for (const stage of stagesOf(this.#scan.checkpoint, askedOf(this.#scan)))
      yield* this.#goThrough({ ...stage, mappings, refused: known.refused }, signal);
  }

  /** Goes on with what was kept, or with the rest of it; else over everything anew. */
  async *#goThrough(asked: Omit<ScanOptions, "ledger" | "now">, signal: AbortSignal): AsyncGenerator<ScanEvent, void> {
    const { source, ledger, now, medium } = this.#tools;
    if (!goesOnFrom(this.#scan.checkpoint, asked)) {
      // What is still to be kept of the scan before is not: this one tells it anew.
      const firstPack = Math.max(
        await FindBook.behind(medium.id),
        (this.#book?.firstPack ?? 0) + Math.ceil((this.#book?.length ?? 0) / PACK_FINDS),
      );
      this.#scan = { ...newScan(asked.depth, firstPack, this.#scan.scope), status: this.#scan.status };
      this.#book = null;
      this.#newest = new Newest();
    }
    this.#book ??= await FindBook.open(medium.id, this.#scan.firstPack);
    // What was told of rows and could not be kept is told again.
    this.#rows = new RowBook(medium.id, this.#scan.firstPack);
    this.#people = new PeopleBook(medium.id, this.#scan.firstPack);
    const { checkpoint } = this.#scan;
    // Of a scan that stands at its beginning nothing counts yet, whatever an earlier version kept of it.
    if (this.#book.length === 0 && checkpoint.pass === "listing" && checkpoint.at === 0)
      this.#scan = { ...this.#scan, counts: noCounts(), rows: { present: 0, erased: 0 }, proposals: [], troubles: [] };
    this.#told.clear();
    for (const trouble of this.#scan.troubles) this.#told.add(wordsOf(trouble));
    this.#pace.forget();
    this.#lastTick = now();
    yield* scan(source, { ...asked, ledger, now }, signal, { checkpoint, known: this.#known(this.#book) });
  }

  /** All finds of before, marked on the map as they pass. */
  async *#known(book: FindBook): AsyncGenerator<Find> {
    for await (const find of book.all()) {
      if (find.state === "erased") this.#mark(find);
      yield find;
    }
  }

  async take(event: ScanEvent): Promise<void> {
    if (event.type === "volumes") this.#takeVolumes(event);
    else await this.#takeBatch(event);
    if (this.#tools.now() - this.#lastNews > NEWS_EVERY) this.tell();
  }

  #takeVolumes({ volumes, freeRuns }: Extract<ScanEvent, { type: "volumes" }>): void {
    this.#map = new StorageMap(this.#tools.source.size, MAP_CELLS, freeRuns);
    this.#scan = {
      ...this.#scan,
      volumes: volumes.map(({ filesystem, label, start, length, used, free, encryption = null, condition = null }) => ({
        filesystem,
        label,
        start,
        length,
        used,
        free,
        encryption,
        condition,
      })),
    };
  }

  async #takeBatch(event: ScanBatch): Promise<void> {
    const book = this.#book;
    if (!book) return;
    for (const find of event.finds) await this.#found(book, find);
    for (const find of event.besides) await book.put(find, true);
    for (const patch of event.patches) await book.patch(patch);
    const rows = { ...this.#scan.rows };
    const count = ({ state }: { readonly state: string }) => void rows[state === "erased" ? "erased" : "present"]++;
    // What people mean by rows is none of them.
    event.records.filter(({ store }) => store === undefined).forEach(count);
    await this.#people?.take(event.records);
    event.rows?.rows.forEach(count);
    if (event.rows) await this.#rows?.take(event.rows);
    // Nothing is told of the next database before all of this one is.
    if (event.checkpoint.told === 0) this.#rows?.close();
    this.#scan = {
      ...this.#scan,
      rows,
      checkpoint: event.checkpoint,
      progress: event.progress,
      unreadable: event.unreadable.map(({ offset, length }) => ({ offset, length })),
      proposals: withProposals(this.#scan.proposals, event),
      troubles: this.#withTroubles(event),
    };
    const { pass, at } = event.checkpoint;
    // Where only the rest is gone over, all free space was searched before.
    const isSearched = pass !== "listing" || event.checkpoint.widened !== null;
    if (pass === "sweep") this.#map?.searchedTo(at);
    else if (this.#scan.depth === "deep" && isSearched) this.#map?.searchedTo(this.#tools.source.size);
    this.#map?.unreadable(event.unreadable);
    const now = this.#tools.now();
    this.#pace.note(now, event.progress.done);
    this.#scan.seconds += (now - this.#lastTick) / 1000;
    this.#lastTick = now;
  }

  /** Each trouble counts once: a scan that goes on tells those of its beginning again. */
  #withTroubles({ troubles }: ScanBatch): KeptScan["troubles"] {
    const fresh = troubles.filter((trouble) => {
      const words = wordsOf(trouble);
      const isNew = !this.#told.has(words);
      this.#told.add(words);
      return isNew;
    });
    return fresh.length > 0 ? [...this.#scan.troubles, ...fresh].slice(0, MAX_TROUBLES) : this.#scan.troubles;
  }

  async #found(book: FindBook, find: Find): Promise<void> {
    const before = await book.put(find);
    const { counts } = this.#scan;
    if (before) counts[before.kind][before.state]--;
    counts[find.kind][find.state]++;
    this.#newest.note(findKey(this.#tools.medium.id, find.id), find);
    if (find.state !== "erased" || find.extents.length === 0) return;
    if (!before) this.#mark(find);
  }

  #mark({ extents }: Find): void {
    const [first] = onMedium(extents);
    if (first) this.#map?.found(first.offset);
  }

  /** The storage map as it is drawn now: until the volumes are known, as it was drawn last. */
  get #drawn(): KeptScan["map"] {
    return this.#map ? { size: this.#map.size, cells: this.#map.cells, strokes: this.#map.strokes } : this.#scan.map;
  }

  /** Finds, counts, places and checkpoint in one transaction: after a crash they agree. */
  async keep(status: WorkState, because: string | null): Promise<void> {
    const packs = this.#book?.dirty() ?? [];
    const rows = this.#rows?.step() ?? { stores: [], chunks: [], rests: [] };
    const people = this.#people?.step() ?? NO_PEOPLE;
    const kept = { ...this.#scan, status, because, map: this.#drawn, newest: this.#newest.keys };
    const { ledger, keeper } = this.#tools;
    const { version } = ledger;
    await keeper.keep({ packs, rows, people, scan: kept, places: version === this.#placesKept ? null : ledger.kept() });
    this.#placesKept = version;
    this.#book?.settle(packs);
    this.#rows?.settle(rows);
    this.#people?.settle(people);
    this.#scan = kept;
  }

  /** The state changed: it is told at once. */
  said(status: WorkState, because: string | null): void {
    this.#scan = { ...this.#scan, status, because };
    this.tell();
  }

  tell(): void {
    this.#lastNews = this.#tools.now();
    const { checkpoint, ...shown } = this.#scan;
    const { pass, total } = this.#scan.progress;
    const isReading = this.#scan.status === "running" || this.#scan.status === "pausing";
    this.#tools.tell({
      scan: { ...shown, map: this.#drawn, newest: this.#newest.keys },
      pace: isReading ? this.#pace.bytesPerSecond : null,
      secondsLeft: isReading && pass === "sweep" ? this.#pace.secondsLeft(total) : null,
      lamp: pass === "sweep" && this.#scan.status !== "done" ? checkpoint.at : null,
    });
  }

  reason(cause: unknown): string | { readonly takenOver: string } {
    if (cause instanceof NotMine) return { takenOver: cause.message };
    if (cause instanceof UnusableError) return cause.message;
    if (lacksRoom(cause)) return NO_ROOM;
    return `The scan broke off: ${cause instanceof Error ? cause.message : String(cause)}`;
  }
}

/** Each database once: a scan that goes on tells of it again. */
function withProposals(before: KeptScan["proposals"], { proposals }: ScanBatch): KeptScan["proposals"] {
  if (proposals.length === 0) return before;
  const fresh = proposals.flatMap(({ database: find, table, sureness }) => (find === null ? [] : [{ find, table, sureness }]));
  const told = new Set(fresh.map(({ find }) => find));
  return [...before.filter(({ find }) => !told.has(find)), ...fresh].slice(0, MAX_PROPOSALS);
}

const wordsOf = ({ what, at }: { readonly what: string; readonly at: number }): string => `${at} ${what}`;
