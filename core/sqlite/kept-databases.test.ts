import { createHash } from "node:crypto";
import { describe, expect, test } from "vitest";
import { allRows, columnsOf, DATABASES, databaseBytes, databaseTruth, sourcesOfBytes, type TruthRow } from "../../test/kept-databases.ts";

/** What a row is: its table and all its values, bytes by their hash; the key only where asked for. */
function contentOf(table: string, values: Record<string, unknown>, without: string | null): string {
  const said = (value: unknown): string => {
    if (value instanceof Uint8Array) return createHash("sha256").update(value).digest("hex");
    if (typeof value === "object" && value !== null && "$blob" in value) return (value.$blob as { sha256: string }).sha256;
    return `${typeof value} ${value}`;
  };
  const named = Object.entries(values).filter(([name, value]) => value !== null && name !== without);
  return JSON.stringify([table, named.map(([name, value]) => [name, said(value)]).sort()]);
}

// The open set's own account of each database; written by the sqlite3 library, truth by tracking every byte.
describe.each(DATABASES)("%s", (name) => {
  const truth = databaseTruth(name);
  const keyOf = (table: string) => truth.tables[table]?.integerPrimaryKey ?? null;
  const wanted = (row: TruthRow, withKey: boolean) => contentOf(row.table, row.values, withKey ? null : keyOf(row.table));
  const read = allRows(sourcesOfBytes(databaseBytes(name)));
  /** Unclear: there or erased, and nothing says which. It is no claim, and counts either way. */
  const told = async (state: "present" | "erased", withKey: boolean) =>
    new Set(
      ((await read)?.rows ?? [])
        .filter((row) => row.state === state || row.state === "unclear")
        .map((row) => contentOf(row.table.name, columnsOf(row), withKey ? null : keyOf(row.table.name))),
    );

  test("every row that is there is there, with all its values", async () => {
    const present = await told("present", true);
    const missing = truth.rows.filter(
      (row) => row.state !== "deleted" && (row.survival ?? "intact") === "intact" && !present.has(wanted(row, true)),
    );
    expect(missing).toEqual([]);
  });

  test("every deleted row whose bytes are left comes back with all its values", async () => {
    const [exact, keyless] = [await told("erased", true), await told("erased", false)];
    const missing = truth.rows.filter(
      (row) =>
        row.state === "deleted" &&
        (row.survival === "intact" || row.survival === "head-overwritten") &&
        !(row.rowidSurvives ? exact : keyless).has(wanted(row, row.rowidSurvives ?? false)),
    );
    expect(missing).toEqual([]);
  });

  test("what is told as whole was there once, and is not there now", async () => {
    const deleted = [...truth.rows.filter(({ state }) => state === "deleted"), ...truth.previousVersions];
    const once = new Set(deleted.map((row) => wanted(row, false)));
    const tracked = new Set(truth.rows.map(({ table }) => table));
    const whole = ((await read)?.rows ?? []).filter(
      (row) => row.state === "erased" && row.condition === "whole" && tracked.has(row.table.name),
    );
    const invented = whole.filter((row) => !once.has(contentOf(row.table.name, columnsOf(row), keyOf(row.table.name))));
    // Half of a percent is allowed; the same row is not told twice.
    expect(invented.length).toBeLessThanOrEqual(whole.length * 0.006);
    const exact = whole.map((row) => contentOf(row.table.name, columnsOf(row), null));
    expect(new Set(exact).size).toBe(exact.length);
  });
});
