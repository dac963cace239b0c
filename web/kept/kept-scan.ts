import { z } from "zod";
import { Bytes } from "../../core/bytes/bytes-schema.ts";
import { KINDS, STATES } from "../../core/finds/find.ts";
import { type Asked, beginning, Checkpoint } from "../../core/scan/checkpoint.ts";
import type { Depth } from "../../core/scan/events.ts";
import { EVERYTHING_THERE, Scope } from "../../core/scan/scope.ts";
import { WORK_STATES } from "../../core/work/work-state.ts";
import { Stretch } from "./stretch.ts";

/** A scan as it is kept with its medium. */
const Counts = z.record(z.enum(KINDS), z.record(z.enum(STATES), z.number()));
export type Counts = z.infer<typeof Counts>;

export const KeptScan = z.object({
  status: z.enum(WORK_STATES),
  depth: z.enum(["quick", "deep"]),
  /** What it is asked to go over; its checkpoint says how far that is covered. */
  scope: Scope.default(EVERYTHING_THERE),
  checkpoint: Checkpoint,
  /** Number of the pack that its finds begin with: those before are an earlier scan's, kept until this one is done. */
  firstPack: z.number().int().nonnegative(),
  progress: z.object({ pass: Checkpoint.shape.pass, done: z.number(), total: z.number() }),
  counts: Counts,
  /** Rows and entries that the databases pass told of. */
  rows: z.object({ present: z.number(), erased: z.number() }),
  unreadable: z.array(Stretch),
  volumes: z.array(
    z.object({
      filesystem: z.string(),
      label: z.string().nullable(),
      start: z.number(),
      length: z.number(),
      used: z.number(),
      free: z.number(),
      /** How it is encrypted and what that means; what else it says of its state. Both in plain words. */
      encryption: z.string().nullable().default(null),
      condition: z.string().nullable().default(null),
    }),
  ),
  /** Databases that may be messengers, and are not read as such until somebody looks at them. */
  proposals: z.array(z.object({ find: z.string(), table: z.string(), sureness: z.number() })).default([]),
  troubles: z.array(z.object({ what: z.string(), at: z.number(), length: z.number() })),
  /** Keys of finds that are worth a look, the newest first. */
  newest: z.array(z.string()).default([]),
  /** The storage map, as it was drawn last. */
  map: z.object({ size: z.number(), cells: Bytes, strokes: z.custom<Uint16Array>((value) => value instanceof Uint16Array) }).nullable(),
  /** Working time in seconds, pauses left out. */
  seconds: z.number(),
  /** Why it failed, in plain words. */
  because: z.string().nullable(),
});
export type KeptScan = z.infer<typeof KeptScan>;

export const noCounts = (): Counts =>
  Object.fromEntries(KINDS.map((kind) => [kind, Object.fromEntries(STATES.map((state) => [state, 0]))])) as Counts;

/** How many finds of all kinds are in a state. */
export const sumOf = (counts: Counts, state: (typeof STATES)[number]): number =>
  Object.values(counts).reduce((sum, states) => sum + states[state], 0);

/** What a scan is asked for, as it is kept. */
export const askedOf = ({ depth, scope }: Pick<KeptScan, "depth" | "scope">): Asked => ({ depth, ...scope });

export const newScan = (depth: Depth = "deep", firstPack = 0, scope = EVERYTHING_THERE): KeptScan => ({
  status: "new",
  depth,
  scope,
  checkpoint: beginning({ depth, ...scope }),
  firstPack,
  progress: { pass: "listing", done: 0, total: 0 },
  counts: noCounts(),
  rows: { present: 0, erased: 0 },
  unreadable: [],
  volumes: [],
  proposals: [],
  newest: [],
  troubles: [],
  map: null,
  seconds: 0,
  because: null,
});

export const findsIn = (counts: Counts): number =>
  Object.values(counts).reduce((sum, states) => sum + Object.values(states).reduce((a, b) => a + b, 0), 0);
