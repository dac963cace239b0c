import { PROVIDER_QUERIES } from "../core/phones/adb/provider-queries.ts";
import type { Gathered, StoreRow, StoreTable } from "../core/stores/gathered.ts";
import type { Rows } from "../standins/phone/people.ts";

/** What a phone's providers would tell of databases: the rows that are there whole, joined as the providers' views join them. */
export function providerRows(databases: readonly Gathered[]): Record<string, Rows> {
  const table = (name: string, ...columns: string[]) => databases.flatMap((one) => one.table(name, ...columns) ?? [])[0] ?? null;
  const told: Record<string, Rows> = {};
  const plain = (uri: string, from: StoreTable | null, keep: (row: StoreRow) => boolean = () => true) => {
    if (from)
      told[uri] = from.rows
        .filter((row) => row.isThere && row.row.condition === "whole" && keep(row))
        .map((row) => columnsOf(uri, from, row));
  };
  const contacts = "content://com.android.contacts";
  const raw = table("raw_contacts", "display_name");
  const accounts = table("accounts", "account_name");
  const account = (row: StoreRow) => accounts?.first("_id", (raw as StoreTable).get(row, "account_id"));
  plain(`${contacts}/raw_contacts`, raw);
  for (const [index, row] of (raw?.rows ?? []).filter(({ isThere, row }) => isThere && row.condition === "whole").entries()) {
    const of = account(row);
    told[`${contacts}/raw_contacts`][index].account_name = (of && accounts?.text(of, "account_name")) ?? null;
  }
  const data = table("data", "raw_contact_id", "mimetype_id", "data1");
  const mimetypes = table("mimetypes", "mimetype");
  const joined = (isDeleted: boolean): Rows =>
    (data?.rows ?? []).flatMap((row) => {
      const own = row.isThere ? raw?.first("_id", data?.get(row, "raw_contact_id")) : undefined;
      if (!own?.isThere || (raw?.number(own, "deleted") === 1) !== isDeleted) return [];
      const kind = mimetypes?.first("_id", data?.get(row, "mimetype_id"));
      const more = {
        mimetype: (kind && mimetypes?.text(kind, "mimetype")) ?? null,
        contact_id: raw?.text(own, "contact_id") ?? null,
        display_name: raw?.text(own, "display_name") ?? null,
      };
      const uri = `${contacts}/${isDeleted ? "raw_contact_entities" : "data"}`;
      const values = columnsOf(uri, data as StoreTable, row);
      const names: Rows[number] = isDeleted ? { data_id: values._id, _id: data?.text(row, "raw_contact_id") ?? null, deleted: 1 } : {};
      return [{ ...values, ...more, ...names }];
    });
  if (data) {
    told[`${contacts}/data`] = joined(false);
    told[`${contacts}/raw_contact_entities`] = joined(true);
  }
  plain(`${contacts}/contacts`, table("contacts", "in_visible_group"));
  plain(`${contacts}/groups`, table("groups", "group_visible"));
  plain(`${contacts}/settings`, table("settings", "ungrouped_visible"));
  plain("content://sms", table("sms", "body"));
  plain("content://mms", table("pdu", "msg_box"));
  plain("content://mms/part", table("part", "mid"));
  const addr = table("addr", "msg_id");
  for (const row of addr?.rows.filter(({ isThere }) => isThere) ?? []) {
    const uri = `content://mms/${addr?.text(row, "msg_id")}/addr`;
    told[uri] = [...(told[uri] ?? []), columnsOf("content://mms/addr", addr as StoreTable, row)];
  }
  plain("content://mms-sms/conversations?simple=true", table("threads", "recipient_ids"));
  plain("content://mms-sms/canonical-addresses", table("canonical_addresses", "address"));
  const calls = table("calls", "number", "date", "duration", "type");
  plain("content://call_log/calls", calls, (row) => calls?.number(row, "deleted") !== 1);
  for (const [name, table_] of [
    ["events", "Events"],
    ["calendars", "Calendars"],
    ["attendees", "Attendees"],
    ["reminders", "Reminders"],
  ] as const)
    plain(`content://com.android.calendar/${name}`, table(table_));
  return told;
}

/** The columns that are asked for at an address, as a table has them. */
function columnsOf(uri: string, from: StoreTable, row: StoreRow): Rows[number] {
  const asked = PROVIDER_QUERIES.find((one) => one.uri === uri)?.columns ?? ["_id", "msg_id", "type", "address"];
  const value = (name: string) => {
    const own = name === "_id" && from.column("_id") < 0 ? row.row.rowid : from.get(row, name);
    return own === undefined || own === null ? null : own instanceof Uint8Array ? "BLOB" : String(own);
  };
  return Object.fromEntries(asked.map((name) => [name, value(name)]));
}
