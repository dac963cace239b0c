import { existsSync, readFileSync } from "node:fs";
import { gunzipSync } from "node:zlib";
import { z } from "zod";
import { memorySource } from "../core/bytes/memory-source.ts";
import type { Trouble } from "../core/bytes/trouble.ts";
import { DatabaseFiles, type DatabaseSources } from "../core/sqlite/files/database-files.ts";
import { recoverRows } from "../core/sqlite/recover.ts";
import { byName, type Row } from "../core/sqlite/rows/row.ts";
import { KNOWN_TABLES } from "../core/sqlite/tables/known-tables.ts";

/** Databases written by the real SQLite library, with an exact account of every row that is or was in them. */
export const DATABASES = ["calendar", "calllog", "external", "mmssms-zeroed"] as const;
export type KeptDatabase = (typeof DATABASES)[number];

const Value = z.union([z.string(), z.number(), z.null(), z.object({ $blob: z.object({ sha256: z.string() }) })]);
const TruthRow = z.object({
  table: z.string(),
  values: z.record(z.string(), Value),
  state: z.enum(["live", "hidden", "soft-deleted", "deleted"]).default("deleted"),
  survival: z.string().optional(),
  rowidSurvives: z.boolean().optional(),
});
export type TruthRow = z.infer<typeof TruthRow>;
const Truth = z.object({
  tables: z.record(z.string(), z.object({ columns: z.array(z.string()), integerPrimaryKey: z.string().nullable() })),
  rows: z.array(TruthRow),
  previousVersions: z.array(TruthRow),
});
export type DatabaseTruth = z.infer<typeof Truth>;

const unpacked = (path: string): Uint8Array => new Uint8Array(gunzipSync(readFileSync(path)));
export const databaseTruth = (name: KeptDatabase): DatabaseTruth =>
  Truth.parse(JSON.parse(gunzipSync(readFileSync(`test/databases/${name}.db.truth.json.gz`)).toString()));

/** Bytes of a database and of what lies beside it. */
export function databaseBytes(name: KeptDatabase): { main: Uint8Array; wal?: Uint8Array; journal?: Uint8Array } {
  const beside = (ending: string) => {
    const path = `test/databases/${name}.db-${ending}.gz`;
    return existsSync(path) ? unpacked(path) : undefined;
  };
  return { main: unpacked(`test/databases/${name}.db.gz`), wal: beside("wal"), journal: beside("journal") };
}

export const sourcesOfBytes = ({ main, wal, journal }: ReturnType<typeof databaseBytes>): DatabaseSources => ({
  main: memorySource(main, "main"),
  wal: wal && memorySource(wal, "wal"),
  journal: journal && memorySource(journal, "journal"),
});

/** All rows of a database. Null: nothing says that it is one. */
export async function allRows(sources: DatabaseSources): Promise<{ rows: Row[]; troubles: Trouble[] } | null> {
  const files = await DatabaseFiles.open(sources);
  if (!files) return null;
  const rows: Row[] = [];
  const troubles: Trouble[] = [];
  for await (const batch of recoverRows(files, KNOWN_TABLES, new AbortController().signal)) {
    rows.push(...batch.rows);
    troubles.push(...batch.troubles);
  }
  return { rows, troubles };
}

export const columnsOf = (row: Row) => byName(row.table, row.values);
