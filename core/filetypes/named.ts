import { DATABASE_JOURNAL, DATABASE_LOG, STRAY_FORMAT } from "./database-formats.ts";
import { format, sound } from "./format.ts";

/** Formats that are known by the endings of names alone: nothing in their first bytes tells them apart. */
export const NAMED = [
  format(DATABASE_LOG, "database", { endings: ["db-wal", "sqlite-wal"], preview: "list", holds: "rows" }),
  format(DATABASE_JOURNAL, "database", { endings: ["db-journal", "sqlite-journal"] }),
  format(STRAY_FORMAT, "database", { endings: [], preview: "list", holds: "rows" }),
  sound("ac3", "audio/ac3"),
  sound("dts", "audio/vnd.dts"),
];
