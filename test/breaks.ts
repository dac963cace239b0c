import { type KeptPlaces, NO_PLACES, PlaceLedger } from "../core/bytes/place-ledger.ts";
import type { ByteSource } from "../core/bytes/source.ts";
import { UnusableError } from "../core/bytes/source.ts";
import type { VolumeInfo } from "../core/filesystems/volume.ts";
import { applyPatch, type Find } from "../core/finds/find.ts";
import type { FoundRecord } from "../core/finds/record.ts";
import { beginning, type Checkpoint } from "../core/scan/checkpoint.ts";
import { scan } from "../core/scan/engine.ts";
import type { ScanBatch, ScanOptions } from "../core/scan/events.ts";
import { recordsIn } from "../core/scan/row-records.ts";
import { EVERYTHING_THERE } from "../core/scan/scope.ts";
import { seeded } from "../demo/random.ts";

/** All that is kept of a scan: what a page that was loaded again has of it. */
export interface Kept {
  /** In the order in which they were told, those of other kinds than were asked for among them. */
  readonly finds: ReadonlyMap<string, Find>;
  readonly besides: ReadonlySet<string>;
  readonly records: readonly FoundRecord[];
  readonly troubles: readonly string[];
  readonly volumes: readonly VolumeInfo[];
  readonly checkpoint: Checkpoint;
  readonly places: KeptPlaces;
}

type Options = Pick<ScanOptions, "depth" | "kinds" | "erasedOnly" | "mappings">;

export const DEEP = { depth: "deep", ...EVERYTHING_THERE } as const;

export const nothingKept = (options: Options): Kept => ({
  finds: new Map(),
  besides: new Set(),
  records: [],
  troubles: [],
  volumes: [],
  checkpoint: beginning(options),
  places: NO_PLACES,
});

/** What one life keeps: a batch is taken in when it is kept, and lost if it never is. */
class Keeping {
  readonly #finds: Map<string, Find>;
  readonly #besides: Set<string>;
  readonly #records: FoundRecord[];
  readonly #troubles: string[];
  #rest: Pick<Kept, "volumes" | "checkpoint" | "places">;

  constructor({ finds, besides, records, troubles, ...rest }: Kept) {
    this.#finds = new Map(finds);
    this.#besides = new Set(besides);
    this.#records = [...records];
    this.#troubles = [...troubles];
    this.#rest = rest;
  }

  get kept(): Kept {
    return { finds: this.#finds, besides: this.#besides, records: this.#records, troubles: this.#troubles, ...this.#rest };
  }

  take({ batch, records, volumes, places }: Told): void {
    for (const { id } of batch.besides) this.#besides.add(id);
    for (const { id } of batch.finds) this.#besides.delete(id);
    for (const find of [...batch.finds, ...batch.besides]) this.#finds.set(find.id, find);
    for (const patch of batch.patches) {
      const find = this.#finds.get(patch.id);
      if (find) this.#finds.set(patch.id, applyPatch(find, patch));
    }
    this.#records.push(...records);
    this.#troubles.push(...batch.troubles.map(({ what, at }) => `${what} at ${at}`));
    this.#rest = { volumes, checkpoint: batch.checkpoint, places };
  }
}

/** A batch as it was told: what the scan does to its objects later does not reach it. */
interface Told {
  readonly batch: Omit<ScanBatch, "rows" | "records">;
  readonly records: readonly FoundRecord[];
  readonly volumes: readonly VolumeInfo[];
  readonly places: KeptPlaces;
}

/** How a life of a scan ends before its time. */
export interface Break {
  /** The medium fails at its n-th reading; or the scan is stopped after its n-th batch; or keeping the n-th step fails. */
  readonly how: "source fails" | "stopped" | "keeping fails" | "never";
  readonly after: number;
  /** Batches that are kept at a time: what came after the last time is lost. */
  readonly keepEvery: number;
}

export const NEVER: Break = { how: "never", after: 0, keepEvery: 1 };

/** One life of a scan, from what an earlier one left. @returns what it left itself, and whether it came to its end */
export async function live(
  source: ByteSource,
  options: Options,
  from: Kept,
  { how, after, keepEvery }: Break,
): Promise<{ kept: Kept; ended: boolean; batches: number; reads: number; again: number; passes: readonly string[] }> {
  let reads = 0;
  const failing: ByteSource = {
    ...source,
    read: (offset, length) => {
      if (++reads >= after && how === "source fails") return Promise.reject(new UnusableError("It is gone."));
      return source.read(offset, length);
    },
  };
  const ledger = new PlaceLedger();
  ledger.merge(from.places);
  const stop = new AbortController();
  const keeping = new Keeping(from);
  let told: Told[] = [];
  let volumes = from.volumes;
  let batches = 0;
  /** Finds that an earlier life had told already, and the pass of each batch. */
  let again = 0;
  const passes: string[] = [];
  const left = (ended: boolean) => ({ kept: keeping.kept, ended, batches, reads, again, passes });
  try {
    for await (const event of scan(failing, { ...options, ledger }, stop.signal, {
      checkpoint: from.checkpoint,
      known: [...from.finds.values()],
    })) {
      if (event.type === "volumes") {
        volumes = event.volumes;
        continue;
      }
      again += event.finds.filter(({ id }) => from.finds.has(id)).length;
      passes.push(event.checkpoint.pass);
      // Rows are read when they are asked for: they are kept as what they say.
      const { rows: _, records: __, ...batch } = event;
      told.push(structuredClone({ batch, records: recordsIn(event), volumes, places: ledger.kept() }));
      const ends = event.checkpoint.pass === "done";
      if (++batches % keepEvery === 0 || ends) {
        if (how === "keeping fails" && batches >= after) return left(false);
        for (const one of told) keeping.take(one);
        told = [];
      }
      if (ends) return left(true);
      if (how === "stopped" && batches >= after) stop.abort(new Error("stopped"));
    }
  } catch (cause) {
    if (how === "stopped" && stop.signal.aborted) return left(false);
    if (!(cause instanceof UnusableError) || how !== "source fails") throw cause;
  }
  return left(false);
}

/** A scan that is broken several times in a row, at places that the seed chooses, and then runs to its end. */
export async function broken(
  source: ByteSource,
  options: Options,
  seed: number,
  length: { batches: number; reads: number },
): Promise<{ kept: Kept; breaks: Break[] }> {
  const random = seeded(seed);
  const breaks: Break[] = [];
  let kept = nothingKept(options);
  for (let times = 1 + Math.floor(random() * 4); times > 0; times--) {
    const how = (["source fails", "stopped", "keeping fails"] as const)[Math.floor(random() * 3)];
    const within = how === "source fails" ? length.reads : length.batches;
    const one: Break = { how, after: 1 + Math.floor(random() * within), keepEvery: 1 + Math.floor(random() ** 2 * 12) };
    breaks.push(one);
    const life = await live(source, options, kept, one);
    kept = life.kept;
    if (life.ended) return { kept, breaks };
  }
  return { kept: (await live(source, options, kept, NEVER)).kept, breaks };
}

/** What must be the same however often a scan was broken: everything that a technician sees of it. */
export const seen = ({ finds, besides, records, troubles, volumes }: Kept) => ({
  finds: Object.fromEntries(
    [...finds]
      .filter(([id]) => !besides.has(id))
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([id, find]) => [id, { ...find, evidence: find.evidence.map(({ pass, what, at }) => `${pass}: ${what} at ${at}`).sort() }]),
  ),
  records: [...records].sort((a, b) => (a.id < b.id ? -1 : a.id > b.id ? 1 : 0)),
  troubles: [...new Set(troubles)].sort(),
  volumes,
});
