import type { Find } from "../finds/find.ts";
import type { FoundRecord } from "../finds/record.ts";
import { byName, type Row } from "../sqlite/rows/row.ts";
import { placeOf, rowIdOf } from "../stores/row-ids.ts";

/** Rows of one database in the order in which they are told; those of stray pages are of none. Their values are read when they are asked for. */
export interface FoundRows {
  readonly find: Find | null;
  readonly rows: readonly Row[];
}

/** A row as a record of the database find that holds it. */
export function recordOf(row: Row, find: Find | null): FoundRecord {
  const { name, nameless } = row.table;
  const { among } = row;
  return {
    id: rowIdOf(row, find?.id ?? null),
    kind: "row",
    state: row.state,
    condition: row.condition,
    database: find?.id ?? null,
    table: nameless === undefined ? name : null,
    ...(among && { tables: among.map((table) => table.name) }),
    rowid: row.rowid,
    columns: byName(row.table, row.values),
    evidence: row.evidence.map(placeOf),
    ...(row.versions.length > 0 && {
      versions: row.versions.map(({ values, evidence }) => ({ columns: byName(row.table, values), evidence: placeOf(evidence) })),
    }),
  };
}

/** What a batch tells of rows and entries, each as a record. */
export const recordsIn = ({
  records,
  rows,
}: {
  readonly records: readonly FoundRecord[];
  readonly rows: FoundRows | null;
}): FoundRecord[] => [...records, ...(rows?.rows.map((row) => recordOf(row, rows.find)) ?? [])];
