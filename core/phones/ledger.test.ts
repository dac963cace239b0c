import { expect, test } from "vitest";
import { type LedgerEntry, observed, stillOpen } from "./ledger.ts";
import type { Seen } from "./seen.ts";

const base: Seen = { serial: "P1", state: "nothing attached", asked: false, elevated: false, recoveryStarted: false, repaired: [] };
/** Follows a phone through what is seen of it, one second apart. */
function follow(...seen: readonly Partial<Seen>[]): LedgerEntry[] {
  let ledger: LedgerEntry[] = [];
  let before: Seen | null = null;
  seen.forEach((change, second) => {
    const after = { ...base, ...change };
    ledger = observed(ledger, before, after, second);
    before = after;
  });
  return ledger;
}
const told = (ledger: readonly LedgerEntry[]) => ledger.map(({ change, takenBackAt }) => [change, takenBackAt]);

test("debugging that was switched on and a computer that was allowed stay open until each is seen taken back", () => {
  const used: Partial<Seen>[] = [
    { state: "attached, not answering" },
    { state: "waiting for the person to allow", asked: true },
    { state: "ready", asked: true },
  ];
  expect(stillOpen(follow(...used)).map(({ change }) => change)).toEqual([
    "debugging switched on",
    "developer options shown",
    "this computer allowed",
  ]);
  expect(told(follow(...used, { state: "nothing attached" }))).toEqual([
    ["debugging switched on", null],
    ["developer options shown", null],
    ["this computer allowed", null],
  ]);
  // Revoked: it asks again. Then debugging is switched off: it does not answer.
  expect(told(follow(...used, { state: "waiting for the person to allow", asked: true }, { state: "attached, not answering" }))).toEqual([
    ["debugging switched on", 4],
    // No computer sees whether the menu still shows: a person says so.
    ["developer options shown", null],
    ["this computer allowed", 3],
  ]);
});

test("debugging that was on before, and a key that was known before, are none of our changes", () => {
  expect(follow({ state: "nothing attached" }, { state: "ready" })).toEqual([]);
});

test("elevated access, a started recovery and a changed mode end with the next usual start", () => {
  const ledger = follow(
    { state: "in bootloader" },
    { state: "in recovery", recoveryStarted: true },
    { state: "nothing attached" },
    { state: "ready", elevated: true },
    { state: "ready" },
  );
  expect(told(ledger)).toEqual([
    ["mode changed", 3],
    ["recovery started", 3],
    ["elevated access taken", 4],
  ]);
});

test("a repair is told and stays; it does not hold the hand-over up", () => {
  const ledger = follow(
    { state: "in download mode" },
    { state: "attached, not answering", repaired: ["boot", "system"] },
    { state: "ready", repaired: ["boot", "system"] },
  );
  expect(ledger.find(({ change }) => change === "system repaired")?.detail).toBe("boot, system");
  expect(stillOpen(ledger)).toEqual([]);
});
