/** What can be seen of a phone from the computer, and a step of a way can wait for. */
export const SIGHTS = [
  "attached",
  "debugging is on",
  "asks its owner",
  "lets this computer in",
  "gave elevated access",
  "in bootloader",
  "in download mode",
  "repaired",
  "in recovery",
  "storage is readable",
] as const;
export type Sight = (typeof SIGHTS)[number];

/**
 * One step of a way. It ticks itself when its sight is there, or a later step's is: steps stand in such an order that a
 * later sight cannot be there without the earlier steps.
 */
export interface Step {
  readonly words: string;
  readonly sight: Sight | null;
  /** Keys to hold, the phone being off, for this mode. */
  readonly keys?: "recovery" | "bootloader" | "download";
  /** What Jubar does itself when asked to. */
  readonly does?: "ask again" | "take elevated access" | "start recovery" | "repair" | "bring key";
}

/** How a step stands. done: it was seen. passed: nothing can see it, and a later one was seen. now: what is waited for. */
export type StepState = "done" | "passed" | "now" | "later";

/** Sights that pass by: they were there when a later one of their way is, though they are gone by then. */
const PASSING: ReadonlySet<Sight> = new Set(["asks its owner", "in bootloader", "in download mode", "repaired"]);

/**
 * How each step of a way stands. A step is done only when its turn came and it was seen; what stands in front of one that was not
 * is not done, whatever is seen behind it.
 */
export function stepStates(steps: readonly Step[], seen: ReadonlySet<Sight>): StepState[] {
  const isSeen = ({ sight }: Step, index: number): boolean =>
    sight !== null &&
    (seen.has(sight) || (PASSING.has(sight) && steps.slice(index + 1).some((later) => later.sight !== null && seen.has(later.sight))));
  const waiting = steps.findIndex((step, index) => step.sight !== null && !isSeen(step, index));
  const end = waiting < 0 ? steps.length : waiting;
  const last = steps.slice(0, end).findLastIndex(({ sight }) => sight !== null);
  // Steps that nothing can see are gone through by the person: the next one that can be seen, or done from here, is what is waited for.
  const now = steps.findIndex(({ sight, does }, index) => index > last && (sight !== null || does !== undefined));
  return steps.map(({ sight }, index) => (index === now ? "now" : index > last ? "later" : sight === null ? "passed" : "done"));
}
