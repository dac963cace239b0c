import { onMedium } from "../../core/bytes/extents.ts";
import type { ByteSource } from "../../core/bytes/source.ts";
import { UnusableError } from "../../core/bytes/source.ts";
import type { Find } from "../../core/finds/find.ts";
import { scan } from "../../core/scan/engine.ts";
import type { ScanEvent } from "../../core/scan/events.ts";
import { Pace } from "../../core/scan/pace.ts";
import { StorageMap } from "../../core/scan/storage-map.ts";
import { database } from "../kept/database.ts";
import type { ScanRecord } from "../kept/job.ts";
import { lacksRoom, NO_ROOM } from "../kept/no-room.ts";
import type { FindShelf } from "./find-shelf.ts";
import type { News } from "./protocol.ts";

/** Milliseconds between checkpoints that are kept, and between news. */
const KEEP_EVERY = 1000;
const NEWS_EVERY = 200;
/** Cells of the storage map: 12 lines of 244. */
const MAP_CELLS = 12 * 244;
const NEWEST = 12;
/** Troubles kept: a dying medium has thousands, and nobody reads more. */
const MAX_TROUBLES = 500;

/** One scan under way in the worker: pulls the engine, shelves finds, keeps checkpoints, tells the screen. */
export class ScanRun {
  readonly #job: number;
  readonly #shelf: FindShelf;
  readonly #source: ByteSource;
  readonly #tell: (news: News) => void;
  readonly #pace = new Pace();
  readonly #stop = new AbortController();
  #scan: ScanRecord;
  #map: StorageMap | null = null;
  #newest: string[] = [];
  #lastKept = 0;
  #lastNews = 0;
  #lastTick = 0;
  #goOn: (() => void) | null = null;
  #pausing = false;
  /** Rows are being counted by this run, not by one before it. */
  #counting = false;

  constructor(job: number, record: ScanRecord, shelf: FindShelf, source: ByteSource, tell: (news: News) => void) {
    this.#job = job;
    this.#scan = record;
    this.#shelf = shelf;
    this.#source = source;
    this.#tell = tell;
  }

  get record(): ScanRecord {
    return this.#scan;
  }

  pause(): void {
    this.#pausing = true;
  }

  goOn(): void {
    this.#pausing = false;
    this.#goOn?.();
  }

  stop(): void {
    this.#stop.abort();
    this.goOn();
  }

  /** Runs to the end, to a stop or to a failure; never throws. */
  async run(): Promise<void> {
    const resume = this.#scan.checkpoint.pass === "listing" ? undefined : { checkpoint: this.#scan.checkpoint, known: this.#shelf.all() };
    this.#scan = { ...this.#scan, status: "running", because: null };
    this.#lastTick = performance.now();
    try {
      await this.#keep();
      for await (const event of scan(this.#source, { depth: this.#scan.depth, kinds: null }, this.#stop.signal, resume)) {
        await this.#take(event);
        await this.#breathe();
      }
      this.#scan = { ...this.#scan, status: "done" };
    } catch (cause) {
      if (this.#stop.signal.aborted) this.#scan = { ...this.#scan, status: "stopped" };
      else this.#scan = { ...this.#scan, status: "failed", because: reason(cause) };
    }
    // Where not even the end can be kept, it is told: the checkpoint that is kept stays true, and this page goes on from here.
    await this.#keep().catch((cause: unknown) => {
      this.#scan = { ...this.#scan, status: "failed", because: reason(cause) };
    });
    this.tell();
  }

  async #take(event: ScanEvent): Promise<void> {
    if (event.type === "volumes") {
      this.#map = new StorageMap(this.#source.size, MAP_CELLS, event.freeRuns);
      for (let row = 0; row < this.#shelf.index.length; row++)
        if (this.#shelf.index.isErased(row)) this.#map.found(this.#shelf.index.startOf(row));
      this.#scan = {
        ...this.#scan,
        volumes: event.volumes.map(({ filesystem, label, start, length, used, free, encryption = null, condition = null }) => ({
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
      return;
    }
    for (const find of event.finds) await this.#found(find);
    for (const patch of event.patches) await this.#shelf.patch(patch);
    this.#countRows(event);
    const { troubles } = this.#scan;
    this.#scan = {
      ...this.#scan,
      checkpoint: event.checkpoint,
      progress: event.progress,
      unreadable: event.unreadable.map((extent) => ({ ...extent })),
      troubles: event.troubles.length > 0 ? [...troubles, ...event.troubles].slice(0, MAX_TROUBLES) : troubles,
    };
    if (event.checkpoint.pass === "sweep") this.#map?.searchedTo(event.checkpoint.at);
    if (event.checkpoint.pass === "done" && this.#scan.depth === "deep") this.#map?.searchedTo(this.#source.size);
    this.#map?.unreadable(event.unreadable);
    this.#pace.note(performance.now(), event.progress.done);
  }

  /** The databases pass begins anew when a scan goes on: so do its counts. */
  #countRows({ records, progress }: Extract<ScanEvent, { type: "batch" }>): void {
    if (progress.pass !== "databases") return;
    const rows = this.#scan.progress.pass === "databases" && this.#counting ? { ...this.#scan.rows } : { present: 0, erased: 0 };
    this.#counting = true;
    for (const { state } of records) rows[state === "erased" ? "erased" : "present"]++;
    this.#scan = { ...this.#scan, rows };
  }

  async #found(find: Find): Promise<void> {
    const before = await this.#shelf.put(find);
    const { counts } = this.#scan;
    if (before) counts[before.kind][before.state]--;
    counts[find.kind][find.state]++;
    if (find.state !== "erased" || find.extents.length === 0) return;
    const [first] = onMedium(find.extents);
    if (!before && first) this.#map?.found(first.offset);
    if (find.kind === "photo" && find.condition !== "remnant" && !find.inside)
      this.#newest = [find.id, ...this.#newest.filter((id) => id !== find.id)].slice(0, NEWEST);
  }

  /** Between two batches: keeps, tells, and waits while paused. */
  async #breathe(): Promise<void> {
    const now = performance.now();
    if (now - this.#lastNews > NEWS_EVERY) this.tell();
    if (now - this.#lastKept > KEEP_EVERY) await this.#keep();
    if (!this.#pausing || this.#stop.signal.aborted) return;
    this.#scan = { ...this.#scan, status: "paused" };
    this.#pace.forget();
    await this.#keep();
    this.tell();
    await new Promise<void>((resolve) => {
      this.#goOn = resolve;
      // "Go on" may have come while the checkpoint was written.
      if (!this.#pausing) resolve();
    });
    this.#goOn = null;
    this.#scan = { ...this.#scan, status: "running" };
    this.#lastTick = performance.now();
    this.tell();
  }

  /** Finds and checkpoint in one transaction: after a crash they agree. Where it fails, all of it is still to be kept. */
  async #keep(): Promise<void> {
    const now = performance.now();
    this.#scan = { ...this.#scan, seconds: this.#scan.seconds + (now - this.#lastTick) / 1000 };
    this.#lastTick = now;
    this.#lastKept = now;
    const chunks = this.#shelf.takeDirty();
    try {
      await database.transaction("rw", database.jobs, database.chunks, async () => {
        await database.chunks.bulkPut(chunks);
        await database.jobs.update(this.#job, { scan: structuredClone(this.#scan), touchedAt: Date.now() });
      });
    } catch (cause) {
      this.#shelf.putBack(chunks);
      throw cause;
    }
  }

  tell(): void {
    this.#lastNews = performance.now();
    const { pass, total } = this.#scan.progress;
    const sweeping = pass === "sweep" && this.#scan.status !== "done";
    this.#tell({
      scan: this.#scan,
      pace: this.#pace.bytesPerSecond,
      secondsLeft: sweeping ? this.#pace.secondsLeft(total) : null,
      generation: this.#shelf.generation,
      newest: this.#newest,
      map: this.#map && {
        size: this.#map.size,
        cells: this.#map.cells,
        strokes: this.#map.strokes,
        lamp: sweeping ? this.#scan.checkpoint.at : null,
      },
    });
  }
}

const reason = (cause: unknown): string => {
  if (cause instanceof UnusableError) return cause.message;
  if (lacksRoom(cause)) return NO_ROOM;
  return `The scan broke off: ${cause instanceof Error ? cause.message : String(cause)}`;
};
