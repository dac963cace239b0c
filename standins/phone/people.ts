import { readFileSync } from "node:fs";
import { z } from "zod";
import type { PhoneFiles } from "./files.ts";

const Value = z.union([z.string(), z.number(), z.null()]);
const Rows = z.array(z.record(z.string(), Value));
export type Rows = z.infer<typeof Rows>;

/** What lies behind an address that is opened as a file: bytes, or a file of the phone. */
const Opened = z.union([z.object({ base64: z.base64() }), z.object({ file: z.string() })]);
const People = z.object({ rows: z.record(z.string(), Rows), files: z.record(z.string(), Opened) });

/** Rows of the system's own providers, by address: invented people of the practice theatre. */
const PEOPLE = People.parse(JSON.parse(readFileSync(new URL("../../demo/practice-people.json", import.meta.url), "utf8")));
const MEDIA = "content://media/external/file";
const TRASHED = /^\.trashed-(\d+)-/;
const TYPES: Readonly<Record<string, string>> = { jpg: "image/jpeg", png: "image/png", mp4: "video/mp4", pdf: "application/pdf" };
/** The first version whose media list has a bin (Android 11). */
const HAS_BIN = 11;

/** The media list is made from the files that are really there. */
const mediaRows = (files: PhoneFiles, android: number): Rows =>
  files.under("/sdcard").map(({ path, name, size, modified }, index) => ({
    _id: index + 1,
    _data: path.replace("/sdcard", "/storage/emulated/0"),
    _display_name: name,
    _size: size,
    format: 0x3000,
    mime_type: TYPES[name.replace(/^.*\./, "").toLowerCase()] ?? null,
    datetaken: null,
    date_modified: modified,
    ...(android >= HAS_BIN && { is_trashed: TRASHED.test(name) ? 1 : 0, date_expires: TRASHED.exec(name)?.[1] ?? null }),
  }));

/** Rows of a provider, or null where there is none of that address. */
export const rowsAt = (
  uri: string,
  files: PhoneFiles,
  android: number,
  people: Readonly<Record<string, Rows>> = PEOPLE.rows,
): Rows | null => (uri === MEDIA ? mediaRows(files, android) : (people[uri] ?? null));

/** What an address opens as a file (`content read`), or null. */
export async function fileAt(uri: string, files: PhoneFiles): Promise<Uint8Array | null> {
  const opened = PEOPLE.files[uri];
  if (!opened) return null;
  if ("base64" in opened) return Buffer.from(opened.base64, "base64");
  const file = files.find(opened.file);
  return file?.read ? file.read(0, file.size) : null;
}

/** Rows that meet a condition: one column that equals a number, which is all that is asked here. Null: it is no such condition. */
export function rowsWhere(rows: Rows, condition: string | undefined): Rows | null {
  if (condition === undefined) return rows;
  const [, column, number] = /^(\w+)=(\d+)$/.exec(condition) ?? [];
  return column ? rows.filter((row) => row[column] === Number(number)) : null;
}

/** A column that a provider does not know: it refuses the whole question (Android Open Source Project, SQLiteQueryBuilder). */
export const unknownColumn = ([first]: Rows, columns: readonly string[]): string | undefined =>
  first && columns.find((column) => !(column in first));

/** Prints rows as the system's `content` command does (AOSP, frameworks/base/cmds/content), in pieces. */
export function* printRows(rows: Rows, columns: readonly string[] | null): Generator<string> {
  if (rows.length === 0) yield "No result found.\n";
  let text = "";
  for (const [index, row] of rows.entries()) {
    const shown = columns ?? Object.keys(row);
    text += `Row: ${index} ${shown.map((column) => `${column}=${row[column] ?? "NULL"}`).join(", ")}\n`;
    if (text.length < PIECE) continue;
    yield text;
    text = "";
  }
  yield text;
}
const PIECE = 64 * 1024;
