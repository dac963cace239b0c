import type { Adb } from "@yume-chan/adb";
import { quoted, runOnPhone } from "./shell.ts";

/** One row of a provider, by column. Null: the phone has no value there. */
export type Row = Readonly<Record<string, string | null>>;

/** What is asked of the system's own providers. The column of free text stands last: it may hold anything. */
export interface PeopleQuery {
  readonly kind: "contacts" | "messages" | "calls" | "calendar" | "media";
  readonly uri: string;
  readonly columns: readonly string[];
}

/** Providers and columns by their published names (AOSP, ContactsContract, Telephony, CallLog, CalendarContract, MediaStore). */
export const PEOPLE_QUERIES: readonly PeopleQuery[] = [
  {
    kind: "contacts",
    uri: "content://com.android.contacts/data",
    columns: ["raw_contact_id", "mimetype", "account_type", "in_visible_group", "data2", "display_name", "data1"],
  },
  { kind: "messages", uri: "content://sms", columns: ["_id", "thread_id", "address", "date", "type", "body"] },
  { kind: "calls", uri: "content://call_log/calls", columns: ["_id", "number", "date", "duration", "type", "name"] },
  {
    kind: "calendar",
    uri: "content://com.android.calendar/events",
    columns: ["_id", "dtstart", "dtend", "allDay", "eventLocation", "title"],
  },
  {
    kind: "media",
    uri: "content://media/external/file",
    columns: ["_id", "_size", "date_modified", "is_trashed", "date_expires", "_data"],
  },
];

const MAX_ROWS = 1_000_000;

/** @returns the rows, or null where the phone does not let the shell ask this provider. @throws Error when the connection ends */
export async function askProvider(adb: Adb, { uri, columns }: PeopleQuery): Promise<Row[] | null> {
  const { out, err, status } = await runOnPhone(adb, `content query --uri ${quoted(uri)} --projection ${columns.join(":")}`);
  if ((status !== null && status !== 0) || /^(\[ERROR\]|Error while accessing provider)/m.test(out + err)) return null;
  return rowsOf(out, columns);
}

/**
 * Reads what the `content` command prints (AOSP, frameworks/base/cmds/content): "Row: 0 _id=1, date=2, body=…". Values are
 * not escaped, so a row begins where the next number in order is followed by its first column, and a value ends where the
 * next asked column begins; the last column keeps everything, commas and line ends too.
 */
export function rowsOf(printed: string, columns: readonly string[]): Row[] {
  const text = printed.replaceAll("\r\n", "\n");
  const rows: Row[] = [];
  let at = text.startsWith(`Row: 0 ${columns[0]}=`) ? 0 : -1;
  while (at >= 0 && rows.length < MAX_ROWS) {
    const next = text.indexOf(`\nRow: ${rows.length + 1} ${columns[0]}=`, at);
    const row = text.slice(at, next < 0 ? text.length : next).replace(/\n$/, "");
    rows.push(rowOf(row.slice(row.indexOf(`${columns[0]}=`)), columns));
    at = next < 0 ? -1 : next + 1;
  }
  return rows;
}

function rowOf(row: string, columns: readonly string[]): Row {
  const values: Record<string, string | null> = {};
  let at = 0;
  columns.forEach((column, index) => {
    const from = at + column.length + 1;
    const following = columns[index + 1];
    const next = following ? row.indexOf(`, ${following}=`, from) : -1;
    const value = row.slice(from, next < 0 ? row.length : next);
    values[column] = value === "NULL" ? null : value;
    at = next < 0 ? row.length : next + 2;
  });
  return values;
}
