import type { Facts } from "./facts.ts";
import { type Intake, mayBeOpened } from "./intake.ts";
import { runs, settled } from "./settled.ts";

export interface Warning {
  readonly what: string;
  readonly why: string;
  /** Work on the phone does not go on before this is done. */
  readonly holds: boolean;
}

/** Below this charge nothing long and nothing that restarts is begun; above the second one there is room. */
const LEAST_BATTERY = 20;
const GOOD_BATTERY = 50;

/** What has to be said before anything else, the weightiest first. */
export function warnings(said: Intake, facts: Facts): Warning[] {
  const intake = settled(said, facts);
  const list: Warning[] = [];
  const lost = intake.loss !== "not lost, only out of reach";
  if (intake.lock !== null && intake.lock !== "open" && intake.consentAt === null)
    list.push({
      what: "Proof of ownership and consent are missing.",
      why: "Jubar does not open a locked phone without them.",
      holds: true,
    });
  if (intake.symptoms.includes("got wet"))
    list.push(
      runs(facts)
        ? { what: "It got wet, and runs: copy at once, do not charge it.", why: "It may not start a second time.", holds: false }
        : {
            what: "Do not charge it, do not switch it on.",
            why: "Current and water together destroy what is still good.",
            holds: true,
          },
    );
  if (lost && intake.used !== "off")
    list.push({
      what: "Stop using the phone.",
      why: "Flight mode on, no new pictures, no updates: each may overwrite an old one.",
      holds: false,
    });
  if (intake.card === "yes")
    list.push({
      what: "Take the memory card out before anything else.",
      why: "It needs no working screen, and is read with the write lock on.",
      holds: false,
    });
  if (facts.battery !== null && facts.battery < LEAST_BATTERY)
    list.push({
      what: `Battery at ${facts.battery} %: charge it first.`,
      why: `Nothing long and nothing that restarts below ${LEAST_BATTERY} %.`,
      holds: true,
    });
  else if (facts.battery !== null)
    list.push({
      what: `Battery at ${facts.battery} %: ${facts.battery < GOOD_BATTERY ? "enough to begin, keep it on the charger" : "enough"}.`,
      why: `Nothing long below ${LEAST_BATTERY} %.`,
      holds: false,
    });
  if (lost)
    list.push({
      what: "Do not reset, update or unlock the bootloader.",
      why: "Each of them wipes most phones, or throws away the key to what is on them.",
      holds: false,
    });
  if (intake.lock === "nobody has it")
    list.push({
      what: "Nobody has the code.",
      why: "Jubar breaks no lock: what is left is the card, a backup, a computer that was allowed before.",
      holds: false,
    });
  return list;
}

/** Whether work on the phone itself may begin. */
export const mayBegin = (intake: Intake, facts: Facts): boolean =>
  mayBeOpened(settled(intake, facts)) && !warnings(intake, facts).some(({ holds }) => holds);
