import type { CallValues } from "../finds/record.ts";
import { isoOf } from "./gathered.ts";
import { type Entry, entryOf, onceEach, type Store } from "./store.ts";

/** CallLog.Calls of the Android Open Source Project: TYPE. 7: answered on another device. */
const DIRECTIONS: Record<number, CallValues["direction"]> = {
  1: "in",
  2: "out",
  3: "missed",
  4: "voicemail",
  5: "declined",
  6: "blocked",
  7: "in",
};

/** The call log (Android Open Source Project, CallLog.Calls). */
export const CALLS: Store = {
  name: "calls",
  read(gathered) {
    const calls = gathered.table("calls", "number", "date", "duration", "type");
    if (!calls) return [];
    const entries = calls.rows.flatMap((row): Entry[] => {
      const at = isoOf(calls.number(row, "date"));
      const type = calls.number(row, "type");
      // A row without a time and a kind of call tells nothing of one.
      if (at === undefined && type === undefined) return [];
      const values: CallValues = {
        at,
        number: calls.text(row, "number"),
        name: calls.text(row, "name") || undefined,
        seconds: calls.number(row, "duration"),
        direction: type === undefined ? undefined : DIRECTIONS[type],
      };
      const isBinned = row.isThere && calls.number(row, "deleted") === 1;
      return [entryOf(CALLS.name, "call", gathered, [row], values, isBinned ? "binned" : undefined)];
    });
    return onceEach(entries, ({ values }) => {
      const { at, number } = values as CallValues;
      return at === undefined ? null : `${at} ${number}`;
    });
  },
};
