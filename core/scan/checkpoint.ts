import { z } from "zod";
import { Bytes } from "../bytes/bytes-schema.ts";
import { Listed } from "./lent-names.ts";
import { compared, Scope } from "./scope.ts";

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
  covers: Scope.extend({ depth: z.enum(["quick", "deep"]) }),
  /** What media lists said of files whose size a find without a name has. */
  lent: z.array(Listed).readonly().default([]),
  /** It goes over the rest of what a narrower one did: what that covered, and how many of its finds were gone through. */
  widened: z.object({ from: Scope, gone: count }).nullable().default(null),
});
export type Checkpoint = z.infer<typeof Checkpoint>;

/** What a scan is asked to go over. */
export interface Asked extends Scope {
  readonly depth: Checkpoint["covers"]["depth"];
}

export const isSameAsked = (one: Asked, other: Asked): boolean => one.depth === other.depth && compared(one, other) === "same";

/** Where a scan begins. */
export const beginning = ({ depth, kinds, erasedOnly }: Asked): Checkpoint => ({
  pass: "listing",
  at: 0,
  search: { stretches: 0, at: 0, found: [] },
  twins: [],
  sweep: { done: 0, detectors: {} },
  told: 0,
  struck: null,
  covers: { depth, kinds: kinds && [...kinds], erasedOnly },
  lent: [],
  widened: null,
});

/** Can a scan with these options go on from this checkpoint: of one of the same, or of a narrower one that is done? Else it goes over everything anew. */
export function goesOnFrom({ covers, pass }: Checkpoint, asked: Asked): boolean {
  return covers.depth === asked.depth && compared(covers, asked) === (pass === "done" ? "wider" : "same");
}

/** Where a scan takes up a checkpoint that it can go on from: where it stood, or at what the narrower one left out. */
export const takenUp = (before: Checkpoint, asked: Asked): Checkpoint =>
  before.pass === "done"
    ? {
        ...before,
        pass: "listing",
        at: 0,
        told: 0,
        struck: null,
        covers: beginning(asked).covers,
        widened: { from: before.covers, gone: 0 },
      }
    : before;

/** What a scan that is asked for so much has still to go over, one after the other: a narrower one is ended before the rest. */
export const stagesOf = ({ covers, pass }: Checkpoint, asked: Asked): Asked[] =>
  pass !== "done" && covers.depth === asked.depth && compared(covers, asked) === "wider" ? [covers, asked] : [asked];
