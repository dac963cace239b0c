import { unknownFacts } from "../../core/triage/facts.ts";
import { blankIntake, wantsFromText } from "../../core/triage/intake.ts";

/** Steps from one version of a kept job to the next. Each works on the job in place, as Dexie's `modify` hands it over. */

/** Version 1 kept the wants as a line of text, and knew nothing else of the first talk. */
export function intakeFromWants(job: Record<string, unknown>): void {
  job.intake = { ...blankIntake(), wants: wantsFromText(typeof job.wants === "string" ? job.wants : "") };
  job.facts = unknownFacts();
  delete job.wants;
}

/** Version 2 knew nothing of phones: a ticket had storage only. */
export function phoneOfTicket(job: Record<string, unknown>): void {
  job.phone = null;
  job.ledger = [];
}
