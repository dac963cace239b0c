import { z } from "zod";
import type { RowChunk, RowRests } from "../../core/sqlite/rows/row-columns.ts";

/** Rows that are kept together. */
export const CHUNK_ROWS = 4096;

/** A table as a kept row tells of it (core/sqlite/format/schema.ts). */
const KeptTable = z.object({
  name: z.string(),
  columns: z
    .array(
      z.object({
        name: z.string(),
        affinity: z.enum(["integer", "text", "blob", "real", "numeric"]),
        notNull: z.boolean(),
        preset: z.union([z.string(), z.number(), z.null()]),
        virtual: z.boolean(),
      }),
    )
    .readonly(),
  stored: z.array(z.number().int().nonnegative()).readonly(),
  rowidColumn: z.number().int(),
  withoutRowid: z.boolean(),
  nameless: z.number().int().optional(),
});

/** A database whose rows are kept: of which find, by which scan (its first pack), how many rows, and whether those are all. */
export const KeptStore = z.object({
  medium: z.number(),
  find: z.string(),
  scan: z.number(),
  tables: z.array(KeptTable),
  rows: z.number().int().nonnegative(),
  complete: z.boolean(),
});
export type KeptStore = z.infer<typeof KeptStore>;

const flat = <T>(kind: new (...args: never[]) => T) => z.custom<T>((value) => value instanceof kind);

/** Some rows of a store, by number. */
export const KeptChunk = z.object({
  medium: z.number(),
  find: z.string(),
  number: z.number().int().nonnegative(),
  table: flat(Uint16Array),
  rowid: flat(Float64Array),
  state: flat(Uint8Array),
  condition: flat(Uint8Array),
  file: flat(Uint8Array),
  page: flat(Uint32Array),
  at: flat(Float64Array),
  more: flat(Uint8Array),
});

/** What stands in no column of a chunk's rows: asked for when such a row is looked at. */
export interface KeptRests {
  readonly medium: number;
  readonly find: string;
  readonly number: number;
  readonly rests: RowRests;
}
export interface KeptChunk extends RowChunk {
  readonly medium: number;
  readonly find: string;
  readonly number: number;
}
