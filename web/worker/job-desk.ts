import { PassphraseNeeded } from "../../core/backup/unpack.ts";
import type { ByteSource } from "../../core/bytes/source.ts";
import type { Find } from "../../core/finds/find.ts";
import { type Answer, FindIndex, type Query } from "../../core/finds/find-index.ts";
import type { FolderCount } from "../../core/finds/folder-table.ts";
import type { FoundRecord, RecordEvidence } from "../../core/finds/record.ts";
import type { Depth } from "../../core/scan/events.ts";
import { loadJob } from "../kept/database.ts";
import { type Job, newScan } from "../kept/job.ts";
import { FindShelf } from "./find-shelf.ts";
import { giveBack } from "./give-back.ts";
import { openGrant, sampleOf } from "./open-grant.ts";
import { drawPreview } from "./previews.ts";
import type {
  AnswerView,
  Grant,
  HandOverNews,
  HandOverResult,
  JobWorker,
  News,
  Outcome,
  PreviewAnswer,
  Target,
  TraySum,
} from "./protocol.ts";
import { ScanRun } from "./scan-run.ts";
import { TableDesk } from "./table-desk.ts";
import type { PageView, TableAnswer, TableQuery, TablesOutcome } from "./tables-protocol.ts";

const NO_STORAGE: Outcome = { ok: false, because: "The storage of this ticket is not open." };

/** Everything that is done for one job, away from the screen. */
export class JobDesk implements JobWorker {
  #job: Job | null = null;
  #shelf: FindShelf | null = null;
  #source: ByteSource | null = null;
  #run: ScanRun | null = null;
  #notify: (news: News) => void = () => {};
  #answer: Answer | null = null;
  #tables: TableDesk | null = null;
  #opening: AbortController | null = null;

  async open(jobId: number, notify: (news: News) => void): Promise<Job | null> {
    this.#notify = notify;
    this.#job = await loadJob(jobId);
    if (this.#job) this.#shelf = await FindShelf.open(jobId);
    return this.#job;
  }

  async attach(grant: Grant): Promise<Outcome> {
    // The ticket may have been given its storage since it was opened.
    if (this.#job) this.#job = (await loadJob(this.#job.id)) ?? this.#job;
    if (!this.#job?.source) return NO_STORAGE;
    const source = await openGrant(grant).catch((cause: unknown) => (cause instanceof Error ? cause : new Error(String(cause))));
    if (source instanceof Error) return { ok: false, because: source.message, passphrase: source instanceof PassphraseNeeded };
    const { name, size, sample, kind } = this.#job.source;
    // A working copy in the browser's own storage is known by its ticket, and may have grown since.
    if (source.size !== size || (kind !== "copy" && (await sampleOf(source)) !== sample))
      return { ok: false, because: `This is not the storage of this ticket: that was ${name} with ${size.toLocaleString("en")} bytes.` };
    this.#source = source;
    return { ok: true };
  }

  async start(depth: Depth): Promise<Outcome> {
    if (!this.#job || !this.#shelf || !this.#source) return NO_STORAGE;
    if (this.#run?.record.status === "paused") {
      this.#run.goOn();
      return { ok: true };
    }
    if (this.#run?.record.status === "running") return { ok: true };
    let record = this.#run?.record ?? this.#job.scan;
    if (record.status === "done" && record.depth === "quick" && depth === "deep")
      record = { ...record, depth, checkpoint: { pass: "sweep", at: 0 } };
    else if (record.status === "new" || record.status === "done" || record.depth !== depth) {
      await this.#shelf.clear();
      record = { ...newScan(), depth };
    }
    this.#run = new ScanRun(this.#job.id, record, this.#shelf, this.#source, this.#notify);
    void this.#run.run();
    return { ok: true };
  }

  pause(): void {
    this.#run?.pause();
  }

  stop(): void {
    this.#run?.stop();
  }

  ask(query: Query): AnswerView {
    const shelf = this.#shelf;
    this.#answer = (shelf?.index ?? new FindIndex()).ask(query);
    const { rows, ...view } = this.#answer;
    const byTime = query.sort === "newest" || query.sort === "oldest";
    return { ...view, total: rows.length, groups: byTime && shelf ? shelf.index.daysOf(rows) : null, generation: shelf?.generation ?? 0 };
  }

  folders(query: Query, under: string): FolderCount[] {
    return this.#shelf?.index.foldersUnder(query, under) ?? [];
  }

  async window(from: number, to: number): Promise<Find[]> {
    const shelf = this.#shelf;
    if (!shelf || !this.#answer) return [];
    return Promise.all(Array.from(this.#answer.rows.slice(from, to), (row) => shelf.at(row)));
  }

  async find(id: string): Promise<Find | null> {
    return this.#shelf?.get(id) ?? null;
  }

  answerIds(): string[] {
    const shelf = this.#shelf;
    return shelf && this.#answer ? Array.from(this.#answer.rows, (row) => shelf.index.idOf(row)) : [];
  }

  placeInAnswer(id: string): number {
    const row = this.#shelf?.index.rowOf(id);
    return row === undefined || !this.#answer ? -1 : this.#answer.rows.indexOf(row);
  }

  sumOf(ids: readonly string[]): TraySum {
    const kinds: Partial<Record<Find["kind"], number>> = {};
    let bytes = 0;
    let count = 0;
    let damaged = 0;
    const index = this.#shelf?.index;
    for (const id of ids) {
      const row = index?.rowOf(id);
      if (!index || row === undefined) continue;
      const kind = index.kindOf(row);
      kinds[kind] = (kinds[kind] ?? 0) + 1;
      bytes += index.sizeOf(row);
      count++;
      const condition = index.conditionOf(row);
      if (condition === "damaged" || condition === "remnant") damaged++;
    }
    return { count, bytes, kinds, damaged };
  }

  async findsOf(ids: readonly string[]): Promise<Find[]> {
    const found = await Promise.all(ids.map((id) => this.find(id)));
    return found.filter((find) => find !== null);
  }

  async preview(id: string, side: number): Promise<PreviewAnswer> {
    const find = await this.find(id);
    return find && this.#source ? drawPreview(find, this.#source, side) : null;
  }

  async openTables(id: string, notify: (part: number) => void): Promise<TablesOutcome> {
    const find = await this.find(id);
    if (!find || !this.#shelf) return { ok: false, because: "This find is not known any more." };
    if (!this.#source) return { ok: false, because: "The storage of this ticket is not open: its tables are read from there." };
    if (this.#tables?.find.id === id) return { ok: true, tables: this.#tables.tables() };
    this.#opening?.abort();
    this.#opening = new AbortController();
    try {
      this.#tables = await TableDesk.open(find, this.#shelf.all(), this.#source, this.#opening.signal, notify);
      return { ok: true, tables: this.#tables.tables() };
    } catch (cause) {
      return { ok: false, because: cause instanceof Error ? cause.message : String(cause) };
    }
  }

  askTable(query: TableQuery): TableAnswer {
    return this.#tables?.ask(query) ?? { total: 0, present: 0, erased: 0, edited: 0 };
  }

  tableWindow(from: number, to: number): FoundRecord[] {
    return this.#tables?.window(from, to) ?? [];
  }

  async pageOf(evidence: RecordEvidence): Promise<PageView | null> {
    return this.#tables?.page(evidence) ?? null;
  }

  async handOver(ids: readonly string[], target: Target, notify: (news: HandOverNews) => void): Promise<HandOverResult> {
    if (!this.#job || !this.#source) return { ok: false, because: "The storage of this ticket is not open." };
    const job = (await loadJob(this.#job.id)) ?? this.#job;
    return giveBack(job, await this.findsOf(ids), this.#source, target, notify);
  }
}
