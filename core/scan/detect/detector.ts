import type { PatientSource } from "../../bytes/patient-source.ts";
import type { RangeSet } from "../../bytes/ranges.ts";
import type { Trouble } from "../../bytes/trouble.ts";
import type { FileType } from "../../filetypes/file-type.ts";
import type { Find, Patch } from "../../finds/find.ts";
import type { Claims } from "../claims.ts";
import type { FreeRun, FreeSpace } from "../free-space.ts";
import type { Recollection } from "../recollection.ts";
import type { FormerRegions } from "./former-regions.ts";

/** Contents begin on sector boundaries at the finest. */
export const SECTOR = 512;

/** One sector of free space, with the window that was read around it. The same object is handed to all detectors for all sectors. */
export interface Sector {
  /** Number of the free run, and the run. */
  index: number;
  run: FreeRun;
  /** Absolute byte where it begins. */
  at: number;
  /** What was read, and where in it this sector begins. */
  bytes: Uint8Array;
  within: number;
  /** The type of what begins here, looked up once for all who ask. */
  type: FileType | null;
  /** Does a cluster begin here, as the volume is laid out now? Outside of volumes every sector may be a beginning. */
  onGrid: boolean;
  /** Up to which byte each detector is busy, by its name: nothing more begins for it before. */
  readonly busy: ReadonlyMap<string, number>;
}

/** What a detector saw at a sector. */
export interface Seen {
  readonly finds: readonly Find[];
  readonly patches: readonly Patch[];
  readonly troubles: readonly Trouble[];
  /** The byte up to which it is busy now. 0: it is not. */
  readonly busyTo: number;
  /** It must be shown this sector again when a scan goes on. */
  readonly keep?: true;
}

export const NOTHING_SEEN: Seen = { finds: [], patches: [], troubles: [], busyTo: 0 };

/** What all detectors work with. */
export interface Bench {
  readonly source: PatientSource;
  readonly claims: Claims;
  readonly space: FreeSpace;
  /** Where databases lie that were found by their beginning: their pages are no stray ones. */
  readonly databases: RangeSet;
  /** What lay on the medium before its present volumes. */
  readonly former: FormerRegions;
}

/** Something that looks at free space, sector by sector, and says what begins there. */
export interface Detector {
  /** What its state is kept under. */
  readonly name: string;
  /** Detectors whose busy stretches are none of its business. */
  readonly stopsFor: readonly string[];
  /** The cheap first look. */
  wants(sector: Sector): boolean;
  look(sector: Sector): Promise<Seen>;
  /** A scan goes on: the sectors that it asked to keep. */
  recall?(kept: readonly number[], before: Recollection): Promise<void>;
  /** What the sectors tell only together, asked for when all free space was seen. `kept`: those that it asked to keep. */
  rest?(kept: readonly number[]): AsyncGenerator<Seen>;
}

/** Makes a detector for one sweep. */
export type MakeDetector = (bench: Bench) => Detector;
