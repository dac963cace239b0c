import Papa from "papaparse";
import { z } from "zod";
import type { MessageValues } from "../finds/record.ts";
import type { Entry } from "./components.ts";

/** What exports call the same things. Compared without case and signs. */
const NAMES = {
  address: ["address", "number", "phone", "phonenumber", "sender", "recipient"],
  person: ["name", "contact", "contactname", "person", "displayname"],
  at: ["date", "time", "datetime", "timestamp", "sent", "sentat"],
  direction: ["direction", "type", "msgbox", "folder", "box"],
  text: ["text", "body", "message", "content"],
} as const;
type Part = keyof typeof NAMES;

const bare = (name: string): string => name.toLowerCase().replace(/[^a-z]/g, "");

/** Rows of an export are plain: an object of texts, numbers and the like. */
const Plain = z.record(z.string(), z.unknown());
type Plain = z.infer<typeof Plain>;

/** Columns of a message export at most: what has more is another table. */
const MAX_COLUMNS = 64;
type Parts = Partial<Record<Part, string>>;

/** Which column is what. Empty where there are too many for an export of messages. */
function partsOf(keys: readonly string[]): Parts {
  const found: Parts = {};
  if (keys.length > MAX_COLUMNS) return found;
  for (const part of Object.keys(NAMES) as Part[])
    for (const name of NAMES[part]) {
      const key = keys.find((one) => bare(one) === name && !Object.values(found).includes(one));
      if (!key) continue;
      found[part] = key;
      break;
    }
  return found;
}

/** Type 1 and 2 are the telephony provider's (`Telephony.TextBasedSmsColumns`): inbox and sent; 4 to 6 are on their way out. */
function directionOf(value: unknown): MessageValues["direction"] {
  const text = String(value).trim().toLowerCase();
  if (["1", "in", "inbox", "received", "incoming"].includes(text)) return "in";
  if (["2", "3", "4", "5", "6", "out", "sent", "outgoing", "outbox", "draft", "failed", "queued"].includes(text)) return "out";
  return undefined;
}

/** A time as ISO 8601: milliseconds or seconds since 1970, or a written time, which is UTC where it names no zone. */
function timeOf(value: unknown): string | undefined {
  const text = String(value ?? "").trim();
  if (/^\d{9,13}$/.test(text)) {
    const number = Number(text);
    return new Date(text.length > 10 ? number : number * 1000).toISOString();
  }
  const [, day, clock, zone] = /^(\d{4}-\d\d-\d\d)[T ](\d\d:\d\d(?::\d\d(?:\.\d+)?)?)\s*(Z|[+-]\d\d:?\d\d)?$/.exec(text) ?? [];
  const instant = day ? Date.parse(`${day}T${clock}${zone ?? "Z"}`) : Number.NaN;
  return Number.isNaN(instant) ? undefined : new Date(instant).toISOString();
}

const textOf = (value: unknown): string | undefined => (value === null || value === undefined ? undefined : String(value));

/** A row as a message. @returns null for what has neither a time nor a text: it is no export of messages */
function messageOf(row: Plain, parts: Parts): MessageValues | null {
  if (!parts.text || !parts.at) return null;
  const at = timeOf(row[parts.at]);
  if (!at) return null;
  return {
    address: parts.address && textOf(row[parts.address]),
    person: parts.person && textOf(row[parts.person]),
    direction: parts.direction ? directionOf(row[parts.direction]) : undefined,
    at,
    text: textOf(row[parts.text]) ?? "",
  };
}

const columnsOf = (row: Plain): Record<string, string> =>
  Object.fromEntries(Object.entries(row).map(([key, value]) => [key, typeof value === "string" ? value : (JSON.stringify(value) ?? "")]));

const entryOf = (row: Plain, parts: Parts): Entry<MessageValues>[] => {
  const values = messageOf(row, parts);
  return values ? [{ values, columns: columnsOf(row), at: 0, whole: true }] : [];
};

/** A text that is one holds none. */
const NOTHING = "\0";
/** Characters of the first line that are looked at for the names of columns. */
const HEAD = 4096;

/** Does a table's head line name what messages have? Tables of other things are many, and some are large: they are not read. */
export function isMessageTable(text: string): boolean {
  const parts = partsOf(Papa.parse<string[]>(text.replace(/^\ufeff/, "").slice(0, HEAD), { preview: 1 }).data[0] ?? []);
  return parts.text !== undefined && parts.at !== undefined;
}

/** Messages of a table with a head line (RFC 4180). Offsets are those of the file: single rows have none. */
export function readCsvMessages(text: string): Entry<MessageValues>[] {
  const plain = text.replace(/^\ufeff/, "");
  if (!isMessageTable(plain) || plain.includes(NOTHING)) return [];
  const { data } = Papa.parse<Record<string, string>>(plain, { header: true, skipEmptyLines: true });
  const parts = partsOf(Object.keys(data[0] ?? {}));
  return data.flatMap((row) => entryOf(row, parts));
}

/** Lists in a JSON value are looked for this deep. */
const MAX_DEPTH = 4;

/** Messages of a JSON export (RFC 8259): a list of them, by itself or somewhere in an object. */
export function readJsonMessages(text: string): Entry<MessageValues>[] {
  let value: unknown;
  if (text.includes(NOTHING)) return [];
  try {
    value = JSON.parse(text.replace(/^\ufeff/, ""));
  } catch {
    return [];
  }
  return listsIn(value, 0).flatMap((list) => {
    const rows: Plain[] = list.flatMap((row) => {
      const plain = Plain.safeParse(row);
      return plain.success ? [plain.data] : [];
    });
    // The rows of a list are alike: the first one that is a message tells what is what.
    const parts = rows
      .slice(0, MAX_COLUMNS)
      .map((row) => partsOf(Object.keys(row)))
      .find((one) => one.text && one.at);
    return parts ? rows.flatMap((row) => entryOf(row, parts)) : [];
  });
}

function listsIn(value: unknown, depth: number): unknown[][] {
  if (Array.isArray(value)) return [value];
  if (typeof value !== "object" || value === null || depth >= MAX_DEPTH) return [];
  return Object.values(value).flatMap((one) => listsIn(one, depth + 1));
}
