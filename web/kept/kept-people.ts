import { z } from "zod";
import type { FoundRecord, RecordValues, Stored } from "../../core/finds/record.ts";

/** Entries that are kept together. */
export const ENTRIES_A_PACK = 500;

const record = <T>() => z.custom<T>((value) => typeof value === "object" && value !== null);

/** What people mean by rows, as it is kept: a message, a contact, a call (core/finds/record.ts). */
const KeptEntry = z.object({
  id: z.string(),
  kind: z.enum(["contact", "message", "call", "event", "media", "chat", "conversation", "row"]),
  state: z.enum(["present", "binned", "erased", "hidden", "unclear"]),
  condition: z.enum(["whole", "damaged", "remnant"]),
  database: z.string().nullable(),
  table: z.string().nullable(),
  rowid: z.union([z.number(), z.bigint()]).nullable(),
  columns: record<Record<string, Stored>>(),
  values: record<RecordValues>(),
  store: z.string().optional(),
  rows: z.array(z.string()).optional(),
  skipped: z.number().int().positive().optional(),
  evidence: z.array(
    z.object({
      pass: z.enum(["listing", "databases", "sweep"]),
      what: z.string(),
      page: z.number().nullable(),
      file: z.enum(["main", "wal", "journal"]),
      at: z.number(),
    }),
  ),
});
export type KeptEntry = z.infer<typeof KeptEntry>;

/** Entries of one database or export of a medium, by number. `scan`: the first pack of finds of the scan that told of them. */
export const KeptPeople = z.object({
  medium: z.number(),
  find: z.string(),
  number: z.number().int().nonnegative(),
  scan: z.number(),
  entries: z.array(KeptEntry),
});
export type KeptPeople = z.infer<typeof KeptPeople>;

/** What stray pages tell of people is kept under this name: it is of no find. */
export const OF_NO_FIND = "";

/** An entry as it is kept. Null: it is none, but a row. */
export const keptEntryOf = (entry: FoundRecord): KeptEntry | null =>
  entry.kind === "row" || !entry.values
    ? null
    : { ...entry, values: entry.values, evidence: entry.evidence.slice(0, 4).map((one) => ({ ...one })), rows: [...(entry.rows ?? [])] };
