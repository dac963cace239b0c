import type { Gathered } from "../gathered.ts";
import { sourcesIn } from "./source.ts";

/**
 * What tells one app's database from another's: its tables with their columns, tables of one shape as one. The same for each phone that the app is on,
 * whatever was written with it.
 */
export const fingerprintOf = (gathered: Gathered): string =>
  sourcesIn(gathered.tables)
    .map(({ shape, tables }) => `${shape}(${tables[0].table.table.columns.map((column) => column.name).join(",")})`)
    .sort()
    .join(";");

/**
 * The package that a file belongs to, by where it lies: an app's own folder on a phone (AOSP "Access app-specific files"), or its part of a backup
 * (AOSP BackupAgent: apps/<package>/). Null: it lies elsewhere.
 */
export const packageOf = (path: string | null): string | null =>
  /(?:^|\/)(?:data\/data|data\/user(?:_de)?\/\d+|apps|Android\/data)\/([A-Za-z]\w*(?:\.\w+)+)\//.exec(path ?? "")?.[1] ?? null;
