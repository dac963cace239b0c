import { z } from "zod";
import type { Seen } from "./seen.ts";
import { answersDebugging } from "./states.ts";

/** What Jubar, or a person for it, changed on a phone. Nothing is ever installed: there is no word for it. */
const CHANGES = [
  "debugging switched on",
  "developer options shown",
  "this computer allowed",
  "elevated access taken",
  "mode changed",
  "recovery started",
  "system repaired",
  "backup asked for",
] as const;
export type Change = (typeof CHANGES)[number];

/** How each change is taken back: by Jubar, by a person, by the next start, or not at all. */
export const TAKEN_BACK: Readonly<Record<Change, { readonly how: string; readonly open: boolean }>> = {
  "debugging switched on": { how: "switch USB debugging off in Developer options", open: true },
  "developer options shown": { how: "switch them off by the switch at their top: tapping hides them no more", open: true },
  "this computer allowed": { how: "Developer options: revoke the allowed computers", open: true },
  "elevated access taken": { how: "ends when the phone is let go", open: true },
  "mode changed": { how: "start the phone the usual way", open: true },
  "recovery started": { how: "gone with the next start: nothing was written", open: true },
  "system repaired": { how: "stays: its system was written anew, the user's data was not touched", open: false },
  "backup asked for": { how: "leaves nothing behind", open: false },
};

/** One line of the ledger. Times in milliseconds since 1970. */
export const LedgerEntry = z.object({
  at: z.number(),
  /** The phone's serial. */
  phone: z.string().max(120),
  change: z.enum(CHANGES),
  detail: z.string().max(400),
  /** When it was seen, or done, to be taken back; null while it is not. */
  takenBackAt: z.number().nullable(),
});
export type LedgerEntry = z.infer<typeof LedgerEntry>;

/** Notes a change once: while the same change of the same phone is open, it is the same one. */
export function noted(ledger: readonly LedgerEntry[], entry: Omit<LedgerEntry, "takenBackAt">): LedgerEntry[] {
  const known = ledger.some(
    (one) => one.phone === entry.phone && one.change === entry.change && one.detail === entry.detail && one.takenBackAt === null,
  );
  return known ? [...ledger] : [...ledger, { ...entry, takenBackAt: null }];
}

/** Ticks changes of a phone as taken back. */
export const tickedBack = (ledger: readonly LedgerEntry[], phone: string, changes: readonly Change[], at: number): LedgerEntry[] =>
  ledger.map((one) =>
    one.phone === phone && changes.includes(one.change) && one.takenBackAt === null ? { ...one, takenBackAt: at } : one,
  );

/** What still has to be taken back before the phone is given out. */
export const stillOpen = (ledger: readonly LedgerEntry[]): LedgerEntry[] =>
  ledger.filter(({ change, takenBackAt }) => takenBackAt === null && TAKEN_BACK[change].open);

/**
 * What a change of what is seen means for the ledger. `before` is null when the phone was just taken into the ticket:
 * then debugging that is on was on before, and is none of our changes.
 */
export function observed(ledger: readonly LedgerEntry[], before: Seen | null, after: Seen, at: number): LedgerEntry[] {
  const { serial: phone } = after;
  let next = [...ledger];
  const note = (change: Change, detail = "") => {
    next = noted(next, { at, phone, change, detail });
  };
  const tick = (...changes: Change[]) => {
    next = tickedBack(next, phone, changes, at);
  };
  const answers = answersDebugging(after.state);
  if (before?.state === "attached, not answering" && answers && after.repaired.length === 0) {
    note("debugging switched on");
    note("developer options shown");
  }
  if (after.state === "ready" && after.asked) note("this computer allowed");
  if (after.state === "waiting for the person to allow") tick("this computer allowed");
  if (after.elevated) note("elevated access taken");
  else tick("elevated access taken");
  if (after.recoveryStarted && after.state === "in recovery") note("recovery started");
  if (after.repaired.length > 0) note("system repaired", after.repaired.join(", "));
  const otherMode = after.state === "in recovery" || after.state === "in bootloader" || after.state === "in download mode";
  if (otherMode) note("mode changed");
  // Seen in its own system again: whatever mode it was in is over, and a recovery that was started for once is gone.
  if (answers || after.state === "attached, not answering") tick("mode changed", "recovery started");
  // Attached, and its debugging does not answer: it was switched off.
  if (before && answersDebugging(before.state) && after.state === "attached, not answering") tick("debugging switched on");
  return next;
}
