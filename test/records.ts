import type { FoundRecord, RecordKind, RecordValues } from "../core/finds/record.ts";

/** A row of a table as a scan gives it. */
export const aRow = (columns: FoundRecord["columns"]): FoundRecord => ({
  id: "e1.1.notes",
  kind: "row",
  state: "present",
  condition: "whole",
  database: "e1",
  table: "notes",
  rowid: 1,
  columns,
  evidence: [],
});

/** What people mean by rows, as a store gives it, with what a test cares about laid over it. */
export const anEntry = (id: string, kind: RecordKind, values: RecordValues, more: Partial<FoundRecord> = {}): FoundRecord => ({
  ...aRow({}),
  id,
  kind,
  database: "e0",
  table: null,
  rowid: null,
  values,
  ...more,
});
