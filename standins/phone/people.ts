import { readFileSync } from "node:fs";
import { z } from "zod";
import type { PhoneFiles } from "./files.ts";

const Value = z.union([z.string(), z.number(), z.null()]);
const People = z.record(z.string(), z.array(z.record(z.string(), Value)));
type Rows = z.infer<typeof People>[string];

/** Rows of the system's own providers, by address: invented people of the practice theatre. */
const PEOPLE = People.parse(JSON.parse(readFileSync(new URL("../../demo/practice-people.json", import.meta.url), "utf8")));
const MEDIA = "content://media/external/file";
const TRASHED = /^\.trashed-(\d+)-/;

/** The media list is made from the files that are really there. */
const mediaRows = (files: PhoneFiles): Rows =>
  files.under("/sdcard").map(({ path, name, size, modified }, index) => ({
    _id: index + 1,
    _data: path.replace("/sdcard", "/storage/emulated/0"),
    _size: size,
    date_modified: modified,
    is_trashed: TRASHED.test(name) ? 1 : 0,
    date_expires: TRASHED.exec(name)?.[1] ?? null,
  }));

/** Rows of a provider, or null where there is none of that address. */
export const rowsAt = (uri: string, files: PhoneFiles): Rows | null => (uri === MEDIA ? mediaRows(files) : (PEOPLE[uri] ?? null));

/** Prints rows as the system's `content` command does (AOSP, frameworks/base/cmds/content). */
export function printRows(rows: Rows, columns: readonly string[] | null): string {
  if (rows.length === 0) return "No result found.\n";
  return rows
    .map((row, index) => {
      const shown = columns ?? Object.keys(row);
      return `Row: ${index} ${shown.map((column) => `${column}=${row[column] ?? "NULL"}`).join(", ")}\n`;
    })
    .join("");
}
