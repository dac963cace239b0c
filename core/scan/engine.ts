import { patientSource } from "../bytes/patient-source.ts";
import type { ByteSource } from "../bytes/source.ts";
import { findVolumes, type Medium } from "../filesystems/open-volumes.ts";
import type { Find } from "../finds/find.ts";
import { openArchives } from "./archived-finds.ts";
import { beginning, type Checkpoint, goesOnFrom, takenUp } from "./checkpoint.ts";
import { Claims } from "./claims.ts";
import { isSweptDatabase } from "./detect/followed-contents.ts";
import type { PassBatch, ScanEvent, ScanOptions } from "./events.ts";
import { FindReader } from "./find-reader.ts";
import { freeRunsOf } from "./free-space.ts";
import { listing, relist } from "./listing.ts";
import { Recollection } from "./recollection.ts";
import { reconcile } from "./reconcile.ts";
import { NOTHING_READ, readRecords } from "./records.ts";
import { asksForRecords, type Scope } from "./scope.ts";
import { Sweep } from "./sweep.ts";

/** What a scan that was broken off left: where it stood, and all that it had told until then, in that order, besides what is shown too. */
export interface Resume {
  readonly checkpoint: Checkpoint;
  readonly known: AsyncIterable<Find> | Iterable<Find>;
}

/** Copies of shared storage are archives. */
const TAR = "tar archive";
/** Of what a narrower scan knew, nothing is left to be gone through. */
const ALL_GONE = Number.MAX_SAFE_INTEGER;
const NOTHING: PassBatch = { finds: [], patches: [], troubles: [], done: 0, total: 0, at: 0 };
const ORDER: readonly Checkpoint["pass"][] = ["listing", "sweep", "archives", "databases", "reconcile", "done"];

/**
 * Scans a source: listing, sweep (deep only), archives, databases, reconcile. Pull-driven, so not pulling is a pause; stops between two sectors when
 * `signal` aborts (throws its reason). Every batch carries a checkpoint that a fresh process goes on from to the same end; troubles
 * may be told again then, and count once. The same source and options give the same finds with the same ids.
 * A checkpoint of a narrower scan that was done is gone on from with what that left out, to the same end as if all had been asked for at once.
 * One of other options, or of a scan that was done, is not gone on from: everything is told anew.
 * @throws UnusableError for a source that cannot be worked on
 */
export async function* scan(raw: ByteSource, options: ScanOptions, signal: AbortSignal, resume?: Resume): AsyncGenerator<ScanEvent> {
  const before = resume && goesOnFrom(resume.checkpoint, options) ? resume : null;
  const from = before ? takenUp(before.checkpoint, options) : beginning(options);
  yield* new Scan(raw, options, signal, from).run(before?.known ?? []);
}

/** One scan under way: its passes, one after the other, and what they know of each other. */
class Scan {
  readonly #raw: ByteSource;
  readonly #source;
  readonly #options: ScanOptions;
  readonly #signal: AbortSignal;
  readonly #from: Checkpoint;
  readonly #claims = new Claims();
  readonly #before: Recollection;
  readonly #reader: FindReader;
  /** What the last batch told: the next one's checkpoint begins from it. */
  #checkpoint: Checkpoint;

  constructor(raw: ByteSource, options: ScanOptions, signal: AbortSignal, from: Checkpoint) {
    this.#raw = raw;
    this.#options = options;
    this.#signal = signal;
    this.#from = from;
    this.#checkpoint = from;
    this.#source = patientSource(raw, {
      signal,
      ...(options.ledger && { ledger: options.ledger }),
      ...(options.now && { now: options.now }),
    });
    this.#before = new Recollection(this.#claims, from);
    this.#reader = new FindReader(this.#source, options, from.lent);
  }

  /** Is a pass still to be worked on? */
  #isDue(pass: Checkpoint["pass"]): boolean {
    return ORDER.indexOf(this.#from.pass) <= ORDER.indexOf(pass);
  }

  async *run(known: Resume["known"]): AsyncGenerator<ScanEvent> {
    const medium = yield* this.#volumes();
    const archives = medium.volumes.filter(({ info }) => info.filesystem === TAR).map(({ info }) => info.index);
    this.#reader.archives = new Set(archives);
    const databases: Find[] = [];
    let gone = 0;
    for await (const find of known) {
      this.#before.take(find);
      this.#reader.recall(find);
      if (isSweptDatabase(find)) databases.push(find);
      if (this.#from.widened && gone++ >= this.#from.widened.gone) yield* this.#shown(find, this.#from.widened.from, gone);
    }
    if (this.#from.widened) {
      this.#checkpoint = { ...this.#checkpoint, widened: { ...this.#from.widened, gone: ALL_GONE } };
      if (asksForRecords(this.#from.widened.from)) this.#reader.databases.settle();
    }
    if (this.#isDue("listing")) yield* this.#listing(medium);
    else await relist(medium.volumes, this.#claims, this.#before);
    // What is in use but led to by nothing is known only after the lists: it is searched too.
    if (this.#options.depth === "deep" && this.#isDue("sweep") && !this.#before.isRest) yield* this.#sweep(medium, databases);
    if (this.#isDue("archives")) {
      const begun = this.#from.pass === "archives" ? this.#from : { at: 0, told: 0 };
      const archives = [...this.#reader.holders.values()];
      yield* this.#events(openArchives(archives, this.#source, this.#claims, this.#options, begun, this.#before.hasTold), "archives");
    }
    if (this.#isDue("databases") && asksForRecords(this.#options)) {
      const begun = this.#from.pass === "databases" ? this.#from : NOTHING_READ;
      yield* this.#events(
        readRecords(
          this.#reader.databases,
          this.#source,
          this.#signal,
          { mappings: this.#options.mappings ?? [], refused: this.#options.refused },
          begun,
        ),
        "databases",
      );
    }
    this.#signal.throwIfAborted();
    const settled = this.#before.isRest ? [] : reconcile(this.#claims);
    yield this.#event({ ...NOTHING, patches: [...this.#reader.lostPatches(), ...this.#reader.lent.patches(), ...settled] }, "done", []);
  }

  async *#volumes(): AsyncGenerator<ScanEvent, Medium> {
    const finding = findVolumes(this.#source, { search: this.#options.depth === "deep", from: this.#from.search });
    for (;;) {
      const found = await finding.next();
      this.#signal.throwIfAborted();
      if (found.done) {
        const medium = found.value;
        this.#checkpoint = { ...this.#checkpoint, search: medium.search };
        const freeRuns = freeRunsOf(medium, this.#source.size).map(({ offset, length }) => ({ offset, length }));
        yield { type: "volumes", volumes: medium.volumes.map(({ info }) => info), freeRuns };
        return medium;
      }
      const { done, total, state } = found.value;
      this.#checkpoint = { ...this.#checkpoint, search: state };
      yield { ...this.#event({ ...NOTHING, done, total, at: this.#from.at }, "listing", []), checkpoint: this.#checkpoint };
    }
  }

  async *#listing({ volumes, troubles }: Medium): AsyncGenerator<ScanEvent> {
    const met = [...(this.#raw.troubles ?? []), ...troubles, ...volumes.flatMap((volume) => volume.troubles)];
    yield this.#event({ ...NOTHING, troubles: met, at: this.#from.at }, "listing", []);
    yield* this.#events(listing(volumes, this.#source, this.#claims, this.#options, this.#from.at, this.#before), "listing");
  }

  /** A find that the narrower scan kept to itself, where it is asked for now. `gone`: finds of it that were gone through. */
  async *#shown(find: Find, from: Scope, gone: number): AsyncGenerator<ScanEvent> {
    this.#signal.throwIfAborted();
    const shown = await this.#reader.shown(find, from);
    if (!shown) return;
    this.#checkpoint = { ...this.#checkpoint, widened: { from, gone } };
    yield this.#event({ ...NOTHING, finds: [shown] }, "listing", []);
  }

  async *#sweep(medium: Medium, databases: readonly Find[]): AsyncGenerator<ScanEvent> {
    const sweep = new Sweep(this.#source, freeRunsOf(medium, this.#source.size), this.#claims);
    const begun = this.#from.pass === "sweep" ? this.#from.sweep : beginning(this.#options).sweep;
    await sweep.recall(databases, begun, this.#before);
    yield* this.#events(sweep.run(begun), "sweep");
  }

  async *#events(batches: AsyncIterable<PassBatch>, pass: Checkpoint["pass"]): AsyncGenerator<ScanEvent> {
    for await (const batch of batches) {
      this.#signal.throwIfAborted();
      const { finds, besides } = await this.#reader.read(batch);
      yield this.#event({ ...batch, finds }, pass, besides);
    }
  }

  #event(batch: PassBatch, pass: Checkpoint["pass"], besides: readonly Find[]): Extract<ScanEvent, { type: "batch" }> {
    const { at, sweep = this.#checkpoint.sweep, told = 0, struck = null } = batch;
    this.#checkpoint = { ...this.#checkpoint, pass, at, sweep, told, struck, twins: this.#claims.twins, lent: this.#reader.lent.listed };
    return {
      type: "batch",
      finds: batch.finds,
      besides,
      patches: batch.patches,
      records: batch.records ?? [],
      rows: batch.rows ?? null,
      proposals: batch.proposals ?? [],
      troubles: batch.troubles,
      progress: { pass, done: batch.done, total: batch.total },
      checkpoint: this.#checkpoint,
      unreadable: this.#source.unreadable.list(),
      bytesRead: this.#source.bytesRead,
    };
  }
}
