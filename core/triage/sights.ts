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

/** How many steps are done, from the first on: up to the last one whose sight was seen. */
export function stepsDone(steps: readonly Step[], seen: ReadonlySet<Sight>): number {
  return steps.findLastIndex(({ sight }) => sight !== null && seen.has(sight)) + 1;
}
