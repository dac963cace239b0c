import type { Facts } from "../../core/triage/facts.ts";
import type { Intake } from "../../core/triage/intake.ts";
import { mayBegin, warnings } from "../../core/triage/warnings.ts";

/** Why nothing may be done to the phone yet, in a sentence; null when work may begin. */
export function whyHeld(intake: Intake, facts: Facts): string | null {
  if (mayBegin(intake, facts)) return null;
  const holding = warnings(intake, facts).find(({ holds }) => holds);
  if (holding) return `${holding.what} ${holding.why}`;
  return "Say at the intake first whether the phone is locked: a locked one is only opened with its owner's consent.";
}
