import type { Facts } from "./facts.ts";
import type { Intake } from "./intake.ts";

/** The symptoms that a phone whose system answers cannot have. */
const NOT_RUNNING: readonly Intake["symptoms"][number][] = ["stuck while starting", "does not start"];

/** Does its system run? It answers over debugging, whether it lets this computer in or not. */
export const runs = ({ letsIn }: Facts): boolean => letsIn !== null;

/** The answers of the first talk, with what the attached phone itself settles laid over them. */
export function settled(intake: Intake, facts: Facts): Intake {
  return {
    ...intake,
    card: facts.cardInside ? "yes" : intake.card,
    // Who stands open is open; what the owner said of a code is theirs to say.
    lock: intake.lock ?? (facts.locked === false ? "open" : null),
    symptoms: runs(facts) ? intake.symptoms.filter((one) => !NOT_RUNNING.includes(one)) : intake.symptoms,
  };
}

/** Where the phone itself says otherwise than the intake, in sentences. */
export function differences(intake: Intake, facts: Facts): string[] {
  const said: string[] = [];
  if (facts.cardInside && intake.card === "no") said.push("The intake says that no card is inside; the phone has one.");
  if (facts.locked === true && intake.lock === "open") said.push("The intake says that it is open; its screen is locked now.");
  if (facts.locked === false && intake.lock === "nobody has it")
    said.push("The intake says that nobody has its code; it stands open now. Its owner is to be shown, and to agree, all the same.");
  if (runs(facts) && intake.symptoms.some((one) => NOT_RUNNING.includes(one)))
    said.push("The intake says that it does not start; its system runs.");
  return said;
}
