import { z } from "zod";
import { Bytes } from "../bytes/bytes-schema.ts";
import { type Find, KINDS } from "../finds/find.ts";

const count = z.number().int().nonnegative();

/** How far the search for volumes that no table tells of got: done stretches, the byte in the one that is under way, volumes that it found. */
const SearchState = z.object({ stretches: count, at: count, found: z.array(z.tuple([count, count]).readonly()).readonly() });

/** What one detector of the sweep must know to go on. */
const DetectorState = z.object({
  /** Up to this byte it is busy: nothing begins for it before. */
  busyTo: count,
  /** Sectors that it must be shown again, or decides on when all free space was seen. */
  kept: z.array(count).readonly(),
});

/** What the sweep must know to go on. */
const SweepState = z.object({
  /** Bytes of free space that were looked at, in the order they are read in. */
  done: count,
  detectors: z.record(z.string(), DetectorState),
});
export type SweepState = z.infer<typeof SweepState>;

/**
 * Where a scan can go on from, in a fresh process too, to the same end as if it had never stopped. It is kept together with all that was told
 * until then. Everything in it that is not a count of things done is either a detector's state or cannot be worked out anew.
 */
export const Checkpoint = z.object({
  pass: z.enum(["listing", "sweep", "archives", "databases", "reconcile", "done"]),
  /** listing: files and groups of erased entries that were judged. sweep: the absolute byte where reading is. archives, databases: those that were read. */
  at: count,
  search: SearchState,
  /** Erased entries that turned out to speak of a find with another id: the entry's place, and that id. */
  twins: z.array(z.tuple([count, z.string()]).readonly()).readonly(),
  sweep: SweepState,
  /** Finds or records told of the archive or database that is under way. */
  told: count,
  /** One bit for each row of a stray page: a database tells of it. */
  struck: Bytes.nullable(),
  /** What the scan goes over. */
  covers: z.object({ depth: z.enum(["quick", "deep"]), kinds: z.array(z.enum(KINDS)).readonly().nullable() }),
});
export type Checkpoint = z.infer<typeof Checkpoint>;

/** What a scan is asked to go over. */
interface Asked {
  readonly depth: Checkpoint["covers"]["depth"];
  readonly kinds: readonly Find["kind"][] | null;
}

/** Where a scan begins. */
export const beginning = ({ depth, kinds }: Asked): Checkpoint => ({
  pass: "listing",
  at: 0,
  search: { stretches: 0, at: 0, found: [] },
  twins: [],
  sweep: { done: 0, detectors: {} },
  told: 0,
  struck: null,
  covers: { depth, kinds: kinds && [...kinds] },
});

/** Can a scan with these options go on from this checkpoint? Else it goes over everything anew: that is how narrow and then wide equals wide. */
export function goesOnFrom({ covers, pass }: Checkpoint, { depth, kinds }: Asked): boolean {
  if (pass === "done" || covers.depth !== depth) return false;
  if (covers.kinds === null || kinds === null) return covers.kinds === kinds;
  return covers.kinds.length === kinds.length && covers.kinds.every((kind) => kinds.includes(kind));
}
