import type { Facts } from "./facts.ts";
import type { Intake } from "./intake.ts";
import { runs } from "./settled.ts";

/** Something a way needs, and whether it is there. */
export interface Need {
  readonly what: string;
  readonly state: "met" | "missing" | "unknown";
}

export const need = (what: string, there: boolean | null): Need => ({
  what,
  state: there === null ? "unknown" : there ? "met" : "missing",
});

/** What of the phone works, as far as the symptoms tell. */
export interface Condition {
  readonly starts: Need;
  readonly picture: Need["state"];
  readonly touch: Need["state"];
  readonly opened: Need;
}

/** Reads the phone's condition off the intake, as the phone itself settles it. A symptom that is not named is taken as not there: it was asked for. */
export function condition(intake: Intake, facts: Facts): Condition {
  const has = (symptom: Intake["symptoms"][number]) => intake.symptoms.includes(symptom);
  const starts = !has("stuck while starting") && !has("does not start");
  const works = (broken: boolean): Need["state"] => (broken || !starts ? "missing" : "met");
  const opened =
    intake.lock === "open"
      ? need("it can be unlocked", true)
      : intake.lock === "nobody has it"
        ? need("it can be unlocked: nobody has the code", false)
        : intake.lock === null
          ? need("it can be unlocked", null)
          : need("owner shown, and agrees to unlock it", intake.consentAt !== null);
  // Nobody switches a wet phone on to see whether it starts.
  const isWet = has("got wet") && !runs(facts);
  return {
    starts: isWet && starts ? need("it is dry: it is not switched on before", null) : need("the phone starts", starts),
    picture: works(has("screen black")),
    touch: works(has("touch dead") || has("screen black")),
    opened,
  };
}
