import type { Sight } from "../triage/sights.ts";
import { answersDebugging, type PhoneState } from "./states.ts";

/** What the computer knows of a phone at one moment. */
export interface Seen {
  readonly serial: string;
  readonly state: PhoneState;
  /** It asked its owner about this computer since it was attached. */
  readonly asked: boolean;
  readonly elevated: boolean;
  /** A recovery was started by us, for this once. */
  readonly recoveryStarted: boolean;
  /** System partitions that we wrote anew. */
  readonly repaired: readonly string[];
}

/** What of the steps of a way can be ticked off by what is seen. */
export function sightsOf({ state, elevated, repaired }: Seen): Set<Sight> {
  const sights = new Set<Sight>();
  if (state !== "nothing attached") sights.add("attached");
  if (answersDebugging(state)) sights.add("debugging is on");
  if (state === "waiting for the person to allow") sights.add("asks its owner");
  if (state === "ready") sights.add("lets this computer in");
  if (elevated) sights.add("gave elevated access");
  if (state === "in bootloader") sights.add("in bootloader");
  if (state === "in download mode") sights.add("in download mode");
  if (state === "in recovery") sights.add("in recovery");
  if (repaired.length > 0) sights.add("repaired");
  return sights;
}
