import { z } from "zod";
import { LedgerEntry } from "../../core/phones/ledger.ts";
import { HandJoin } from "../../core/stores/people/persons.ts";
import { Facts, unknownFacts } from "../../core/triage/facts.ts";
import { blankIntake, Intake } from "../../core/triage/intake.ts";

/** How a job is kept in the browser's database; its media are kept apart. A change of shape gets a named step in upgrades.ts. */
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
  /** Keys of the chosen finds: the medium's number, a colon, the find's id there. */
  tray: z.array(z.string()),
  handedOver: HandOverRecord.nullable(),
  /** Serial of the phone that this ticket is about, once one was taken in. */
  phone: z.string().nullable(),
  ledger: z.array(LedgerEntry).max(500),
  /** What was said of people's addresses by hand, the oldest first: the last word on two of them counts. */
  joins: z.array(HandJoin).max(5000).default([]),
});
export type Job = z.infer<typeof Job>;

/** A job before anything is known of it. */
export const blankJob = (): Omit<Job, "id" | "number" | "createdAt" | "touchedAt"> => ({
  customer: "",
  device: "",
  intake: blankIntake(),
  facts: unknownFacts(),
  tray: [],
  handedOver: null,
  phone: null,
  ledger: [],
  joins: [],
});
