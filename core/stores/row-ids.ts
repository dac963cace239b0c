import { NAMELESS, type RecordEvidence } from "../finds/record.ts";
import type { Row, RowEvidence } from "../sqlite/rows/row.ts";

const FILE_LETTER = { main: "", wal: "w", journal: "j" } as const;

/** The id of a row's record: its database, the place of its bytes, its table. The same for the same source. */
export function rowIdOf(row: Row, database: string | null): string {
  const [first] = row.evidence;
  const { name, nameless } = row.table;
  return `${database ?? "stray"}.${FILE_LETTER[first.file]}${first.at.toString(16)}.${nameless === undefined ? name : NAMELESS + nameless}`;
}

/** Where a row was read, as a reason that is told. */
export const placeOf = ({ what, page, at, file }: RowEvidence): RecordEvidence => ({
  pass: "databases",
  what,
  page: page === 0 ? null : page,
  file,
  at,
});
