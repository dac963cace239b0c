import type { FoundRecord, Stored } from "../../../core/finds/record.ts";
import type { ColumnHabit } from "./tables-protocol.ts";

/** Values that must agree before a column of numbers is taken for times. */
const LEAST_TIMES = 5;
/** Part of them that must be moments. */
const MOST_BY_FAR = 0.95;
/** Seconds since 1970 that phones have shown: of this century, up to its end. */
const [FIRST, LAST] = [946_684_800, 4_102_444_800];

/** What a number counts, if it is a moment: seconds or milliseconds since 1970. Null: it is none. */
function unitOf(value: Stored | undefined): ColumnHabit["time"] {
  if (typeof value !== "number" || !Number.isInteger(value)) return null;
  if (value > FIRST * 1000 && value < LAST * 1000) return "ms";
  return value > FIRST && value < LAST ? "s" : null;
}

/** What the columns of some rows hold: letters of their texts on average, and whether their numbers are moments. */
export function columnHabits(columns: readonly string[], rows: readonly FoundRecord[]): ColumnHabit[] {
  return columns.map((name) => {
    const values = rows.map((row) => row.columns[name]).filter((value) => value !== null && value !== undefined);
    const texts = values.filter((value) => typeof value === "string");
    const letters = texts.length * 2 > values.length ? texts.reduce((sum, { length }) => sum + length, 0) / texts.length : 0;
    // A missing moment is often a zero.
    const units = values.filter((value) => value !== 0).map(unitOf);
    const time = (["ms", "s"] as const).find(
      (unit) => units.length >= LEAST_TIMES && units.filter((one) => one === unit).length >= units.length * MOST_BY_FAR,
    );
    return { name, letters, time: time ?? null };
  });
}
