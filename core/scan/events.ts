import type { Extent } from "../bytes/extents.ts";
import type { Sha256 } from "../bytes/hash.ts";
import type { Trouble } from "../bytes/trouble.ts";
import type { Find, Patch } from "../finds/find.ts";
import type { FoundRecord } from "../finds/record.ts";
import type { VolumeInfo } from "../medium/volume.ts";

export type Depth = "quick" | "deep";

export interface ScanOptions {
  /** quick: what the lists still know. deep: all free space by content as well. */
  readonly depth: Depth;
  /** Only these kinds, or all. */
  readonly kinds: readonly Find["kind"][] | null;
  /** Hashes every find while scanning. Without it, hashes come when content is read. */
  readonly sha256?: Sha256;
}

/** Where a scan can go on from, in a fresh process too. */
export interface Checkpoint {
  readonly pass: "listing" | "sweep" | "databases" | "reconcile" | "done";
  /** Sweep: absolute byte up to which free space was searched. */
  readonly at: number;
}

/** Bytes of the pass that is under way. */
export interface PassProgress {
  readonly pass: Checkpoint["pass"];
  readonly done: number;
  readonly total: number;
}

export type ScanEvent =
  | { readonly type: "volumes"; readonly volumes: readonly VolumeInfo[]; readonly freeRuns: readonly Extent[] }
  | {
      readonly type: "batch";
      readonly finds: readonly Find[];
      readonly patches: readonly Patch[];
      /** Rows and entries, present and erased. Each is told of once. */
      readonly records: readonly FoundRecord[];
      readonly troubles: readonly Trouble[];
      readonly progress: PassProgress;
      readonly checkpoint: Checkpoint;
      readonly unreadable: readonly Extent[];
      readonly bytesRead: number;
    };

/** What one pass hands up: a batch without what only the engine knows. */
export interface PassBatch {
  readonly finds: readonly Find[];
  readonly patches: readonly Patch[];
  readonly records?: readonly FoundRecord[];
  readonly troubles: readonly Trouble[];
  readonly done: number;
  readonly total: number;
  readonly at: number;
}
