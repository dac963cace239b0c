import type { Extent } from "../bytes/extents.ts";
import type { Sha256 } from "../bytes/hash.ts";
import type { PlaceLedger } from "../bytes/place-ledger.ts";
import type { Trouble } from "../bytes/trouble.ts";
import type { VolumeInfo } from "../filesystems/volume.ts";
import type { Find, Patch } from "../finds/find.ts";
import type { FoundRecord } from "../finds/record.ts";
import type { Mapping } from "../stores/mapping/mapping.ts";
import type { Proposal } from "../stores/read-stores.ts";
import type { Checkpoint } from "./checkpoint.ts";
import type { FoundRows } from "./row-records.ts";
import type { Scope } from "./scope.ts";

export type Depth = "quick" | "deep";

export interface ScanOptions extends Scope {
  /** quick: what the lists still know. deep: all free space by content as well. */
  readonly depth: Depth;
  /** How messengers that are known are read; none: each by what its shape proposes. */
  readonly mappings?: readonly Mapping[];
  /** Fingerprints of databases that are no messengers, whatever they look like. */
  readonly refused?: ReadonlySet<string>;
  /** Hashes every find while scanning. Without it, hashes come when content is read. */
  readonly sha256?: Sha256;
  /** What is known of the medium's bad places, shared with all who read it. */
  readonly ledger?: PlaceLedger;
  /** Milliseconds of any clock, to tell which places are slow. */
  readonly now?: () => number;
}

/** Bytes of the pass that is under way. */
export interface PassProgress {
  readonly pass: Checkpoint["pass"];
  readonly done: number;
  readonly total: number;
}

/** What a scan hands on at a time: to be kept as one, together with its checkpoint. */
export interface ScanBatch {
  readonly type: "batch";
  readonly finds: readonly Find[];
  /** Finds of kinds that were not asked for: nobody is shown them, but a scan that goes on must know them. */
  readonly besides: readonly Find[];
  readonly patches: readonly Patch[];
  /** Entries of exports and rows of stray pages, present and erased. Each is told of once. */
  readonly records: readonly FoundRecord[];
  /** Rows of a database, of which the same is true. */
  readonly rows: FoundRows | null;
  /** Databases that look like messengers, but not surely enough to be read as such. */
  readonly proposals: readonly Proposal[];
  readonly troubles: readonly Trouble[];
  readonly progress: PassProgress;
  readonly checkpoint: Checkpoint;
  readonly unreadable: readonly Extent[];
  readonly bytesRead: number;
}

export type ScanEvent =
  | { readonly type: "volumes"; readonly volumes: readonly VolumeInfo[]; readonly freeRuns: readonly Extent[] }
  | ScanBatch;

/** What one pass hands up: a batch without what only the engine knows. */
export interface PassBatch {
  readonly finds: readonly Find[];
  readonly patches: readonly Patch[];
  readonly records?: readonly FoundRecord[];
  readonly rows?: FoundRows | null;
  readonly proposals?: readonly Proposal[];
  readonly troubles: readonly Trouble[];
  readonly done: number;
  readonly total: number;
  /** Where the pass can go on from, with what it must know then. */
  readonly at: number;
  readonly sweep?: Checkpoint["sweep"];
  readonly told?: number;
  readonly struck?: Uint8Array | null;
}
