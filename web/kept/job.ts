import { z } from "zod";
import { KINDS, STATES } from "../../core/finds/find.ts";
import { LedgerEntry } from "../../core/phones/ledger.ts";
import { Facts, unknownFacts } from "../../core/triage/facts.ts";
import { blankIntake, Intake } from "../../core/triage/intake.ts";

/** How a job is kept in the browser's database. A change of shape raises VERSION and gets a named step. */
export const Stretch = z.object({ offset: z.number(), length: z.number() });

/** A copy that lacks places of what it was made of: which, and how large that was. */
export const Lacks = z.object({ holes: z.array(Stretch), size: z.number().int().nonnegative() });
export type Lacks = z.infer<typeof Lacks>;

/** Where the storage came from, and enough to know it again. */
export const SourceRef = z.object({
  /** folder: files of a mounted card or phone. copy: a working copy in the browser's own storage. phone: read directly off the ticket's phone. */
  kind: z.enum(["handle", "file", "folder", "url", "copy", "phone"]),
  name: z.string(),
  size: z.number().int().nonnegative(),
  /** SHA-256 of a few places of it. */
  sample: z.string(),
  handle: z.custom<FileSystemFileHandle | FileSystemDirectoryHandle>().optional(),
  url: z.string().optional(),
  /** A copy in a file: in which places nothing was read. */
  lacks: Lacks.optional(),
  /** Kinds copy and phone: the job that they belong to. */
  job: z.number().optional(),
});
export type SourceRef = z.infer<typeof SourceRef>;

export const Counts = z.record(z.enum(KINDS), z.record(z.enum(STATES), z.number()));
export type Counts = z.infer<typeof Counts>;

export const ScanRecord = z.object({
  status: z.enum(["new", "running", "paused", "stopped", "done", "failed"]),
  depth: z.enum(["quick", "deep"]),
  checkpoint: z.object({ pass: z.enum(["listing", "sweep", "databases", "reconcile", "done"]), at: z.number() }),
  progress: z.object({ pass: z.enum(["listing", "sweep", "databases", "reconcile", "done"]), done: z.number(), total: z.number() }),
  counts: Counts,
  /** Rows and entries that the databases pass told of. */
  rows: z.object({ present: z.number(), erased: z.number() }).default({ present: 0, erased: 0 }),
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
  troubles: z.array(z.object({ what: z.string(), at: z.number(), length: z.number() })),
  /** Working time in seconds, pauses left out. */
  seconds: z.number(),
  /** Why it failed, in plain words. */
  because: z.string().nullable(),
});
export type ScanRecord = z.infer<typeof ScanRecord>;

const HandOverRecord = z.object({ at: z.number(), to: z.string(), equal: z.number(), files: z.number() });
export type HandOverRecord = z.infer<typeof HandOverRecord>;

export const Job = z.object({
  id: z.number(),
  number: z.string(),
  customer: z.string(),
  device: z.string(),
  intake: Intake,
  facts: Facts,
  createdAt: z.number(),
  touchedAt: z.number(),
  /** Null: the first talk comes before anything is plugged in. */
  source: SourceRef.nullable(),
  scan: ScanRecord,
  tray: z.array(z.string()),
  handedOver: HandOverRecord.nullable(),
  /** Serial of the phone that this ticket is about, once one was taken in. */
  phone: z.string().nullable(),
  ledger: z.array(LedgerEntry).max(500),
});
export type Job = z.infer<typeof Job>;

export const noCounts = (): Counts =>
  Object.fromEntries(KINDS.map((kind) => [kind, Object.fromEntries(STATES.map((state) => [state, 0]))])) as Counts;

export const newScan = (): ScanRecord => ({
  status: "new",
  depth: "deep",
  checkpoint: { pass: "listing", at: 0 },
  progress: { pass: "listing", done: 0, total: 0 },
  counts: noCounts(),
  rows: { present: 0, erased: 0 },
  unreadable: [],
  volumes: [],
  troubles: [],
  seconds: 0,
  because: null,
});

/** A job before anything is known of it. */
export const blankJob = (): Omit<Job, "id" | "number" | "createdAt" | "touchedAt"> => ({
  customer: "",
  device: "",
  intake: blankIntake(),
  facts: unknownFacts(),
  source: null,
  scan: newScan(),
  tray: [],
  handedOver: null,
  phone: null,
  ledger: [],
});

export const findsIn = (counts: Counts): number =>
  Object.values(counts).reduce((sum, states) => sum + Object.values(states).reduce((a, b) => a + b, 0), 0);
