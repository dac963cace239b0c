import type { PatientSource } from "../../bytes/patient-source.ts";
import type { RangeSet } from "../../bytes/ranges.ts";
import type { Trouble } from "../../bytes/trouble.ts";
import type { FileType } from "../../filetypes/file-type.ts";
import { typeAt } from "../../filetypes/table.ts";
import type { Find, Patch } from "../../finds/find.ts";
import type { Claims } from "../claims.ts";
import type { FreeRun, FreeSpace } from "../free-space.ts";
import type { Recollection } from "../recollection.ts";
import type { FormerRegions } from "./former-regions.ts";

/** Contents begin on sector boundaries at the finest. */
export const SECTOR = 512;

/** One sector of free space, with the window that was read around it. The same object is handed to all detectors for all sectors of a window. */
export class Sector {
  /** Number of the free run, and the run. */
  readonly index: number;
  readonly run: FreeRun;
  /** What was read. */
  readonly bytes: Uint8Array;
  /** Where in it this sector begins, and its absolute byte. */
  within = 0;
  at: number;
  readonly #start: number;
  /** Bytes of a cluster as the volume is laid out now, and of the one that the window begins in those before. Outside of volumes every sector may be a beginning. */
  readonly #unit: number;
  readonly #phase: number;
  #typed = false;
  #type: FileType | null = null;

  constructor(index: number, run: FreeRun, start: number, bytes: Uint8Array) {
    this.index = index;
    this.run = run;
    this.bytes = bytes;
    this.#start = start;
    this.at = start;
    this.#unit = run.volume?.info.clusterBytes ?? SECTOR;
    this.#phase = (start - run.offset) % this.#unit;
  }

  /** Goes to the sector at a byte of the window. `type`: where the window does not hold all that is needed to tell it. */
  moveTo(within: number, type?: FileType | null): void {
    this.within = within;
    this.at = this.#start + within;
    this.#typed = type !== undefined;
    this.#type = type ?? null;
  }

  /** Does a cluster begin at a byte of the window? */
  isOnGrid(within: number): boolean {
    return (this.#phase + within) % this.#unit === 0;
  }

  /** Does one begin here? */
  get onGrid(): boolean {
    return this.isOnGrid(this.within);
  }

  /** The type of what begins here: looked up once, whoever asks. */
  get type(): FileType | null {
    if (!this.#typed) {
      this.#typed = true;
      this.#type = typeAt(this.bytes, this.within);
    }
    return this.#type;
  }
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

/** One of these bytes stands so many bytes into a sector. */
export interface Mark {
  readonly at: number;
  readonly bytes: readonly number[];
}

/** Marks of the contents of some types. */
export const marksOf = (types: readonly FileType[]): Mark[] =>
  types.map(({ markAt = 0, firstBytes }) => ({ at: markAt, bytes: firstBytes }));

/** Something that looks at free space, sector by sector, and says what begins there. */
export interface Detector {
  /** What its state is kept under. */
  readonly name: string;
  /** Detectors whose busy stretches are none of its business. */
  readonly stopsFor: readonly string[];
  /** The cheapest look: bytes one of which stands at a place of every sector that it wants. Null: any sector may be wanted. */
  readonly marks: readonly Mark[] | null;
  /** Does it want only sectors at which a cluster begins? */
  readonly onGridOnly?: true;
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
