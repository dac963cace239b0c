/** A row of a database or an entry of an address book, a calendar or a message export: text that came back, not a file. */

export type RecordKind = "contact" | "message" | "call" | "event" | "media" | "chat" | "conversation" | "row";
/** Unclear: there or erased, and nothing says which. */
export type RecordState = "present" | "binned" | "erased" | "hidden" | "unclear";

/** How much of it came back. */
export type RecordCondition = "whole" | "damaged" | "remnant";

/** One reason why we think so. `at`: byte offset in the file that it was read from. */
export interface RecordEvidence {
  readonly pass: "listing" | "databases" | "sweep";
  readonly what: string;
  /** Page of a database, or null. */
  readonly page: number | null;
  /** Of a database: the file itself, or its log or journal. */
  readonly file: "main" | "wal" | "journal";
  readonly at: number;
}

/** Values of a row as stored. Integers that a number cannot hold exactly are bigints. */
export type Stored = null | number | bigint | string | Uint8Array;

/** What of it is known in our own words. Absent: not known. Times are ISO 8601 in UTC, days YYYY-MM-DD. */
export interface ContactValues {
  name?: string;
  given?: string;
  family?: string;
  phones?: { number: string; type?: string }[];
  emails?: { address: string; type?: string }[];
  addresses?: { street?: string; city?: string; region?: string; postcode?: string; country?: string }[];
  organization?: string;
  title?: string;
  note?: string;
  birthday?: string;
  websites?: string[];
  nickname?: string;
  /** A small picture, as a data address (RFC 2397): JPEG or PNG. */
  photo?: string;
  /** What keeps it from being shown, and how it is shown again. */
  hiddenBy?: { account?: string; group?: string; sim?: boolean };
  /** Entries of one number are shown as one person by the phone itself. */
  together?: string;
  /** When the address book was told that it is gone; when it was changed last. */
  erasedAt?: string;
  changedAt?: string;
  /** What it said before, latest changes first. */
  history?: ContactChange[];
}

/** What a contact once said, in place of what came next. */
export interface ContactChange {
  /** What of it: its name, a number … */
  readonly field: "name" | "number" | "mail" | "address" | "works at" | "called" | "birthday" | "page" | "note";
  readonly was: string;
  /** What stood there next. Absent: it was taken out. */
  readonly became?: string;
  /** It was changed after and before these moments (ISO 8601), as far as anything says. */
  readonly after?: string;
  readonly before?: string;
  /** What tells the first of them, where it is not the card itself. */
  readonly by?: "a call" | "another address book";
}

/** What a message carried. `path`: as the database says. `find`: id of the find that it was bound to. */
export interface AttachmentValues {
  name?: string;
  type?: string;
  path?: string;
  find?: string;
}

/** Out: the owner of the storage wrote it. System: nobody did ("… joined"). */
export type Direction = "in" | "out" | "system";

export interface MessageValues {
  /** Id of the conversation's record. */
  conversation?: string;
  /** Who sent what came in; of what went out, whom it went to, where that is one. */
  address?: string;
  person?: string;
  direction?: Direction;
  at?: string;
  subject?: string;
  text?: string;
  attachments?: AttachmentValues[];
  edited?: boolean;
  draft?: boolean;
  /** What it said before it was edited, newest first. */
  before?: { text: string; at?: string }[];
}

/** Members are the others, without the owner. */
export interface ConversationValues {
  title?: string;
  members?: { name?: string; address?: string }[];
  group?: boolean;
}

/** A file as the media index has it. */
export interface MediaValues {
  name?: string;
  path?: string;
  type?: string;
  size?: number;
  taken?: string;
  modified?: string;
  /** Last day in the bin. */
  until?: string;
}

export interface CallValues {
  number?: string;
  name?: string;
  at?: string;
  seconds?: number;
  direction?: "in" | "out" | "missed" | "declined" | "blocked" | "voicemail";
}

export interface EventValues {
  uid?: string;
  title?: string;
  place?: string;
  description?: string;
  start?: string;
  end?: string;
  allDay?: boolean;
  /** How it is repeated (RFC 5545 §3.3.10). */
  rrule?: string;
  /** Minutes before its start. */
  reminders?: number[];
  attendees?: { name?: string; address: string }[];
}

export type RecordValues = ContactValues | MessageValues | ConversationValues | CallValues | EventValues | MediaValues;

export interface FoundRecord {
  /** The same for the same source and options. */
  readonly id: string;
  readonly kind: RecordKind;
  readonly state: RecordState;
  readonly condition: RecordCondition;
  /** Id of the find that it was read from; null: a page that lies about by itself. */
  readonly database: string | null;
  /** Null: not of a table. */
  readonly table: string | null;
  /** Where nothing tells of which of several tables of one shape it is: all that it may be of; `table` is the likeliest. */
  readonly tables?: readonly string[];
  readonly rowid: number | bigint | null;
  readonly columns: Readonly<Record<string, Stored>>;
  readonly values?: RecordValues;
  /** Of what people mean by rows: whose rows they are, and which. */
  readonly store?: string;
  readonly rows?: readonly string[];
  /** So many row ids of its table are missing right before its own: nothing is left of these rows. */
  readonly skipped?: number;
  readonly evidence: readonly RecordEvidence[];
  /** What the same row held at other times, newest first. */
  readonly versions?: readonly { readonly columns: Readonly<Record<string, Stored>>; readonly evidence: RecordEvidence }[];
}

/** Where no schema is left, a row's id ends in this, and the number of the table that it is of. */
export const NAMELESS = "nameless-";

const NAMELESS_ID = new RegExp(`\\.${NAMELESS}(\\d+)$`);

/** The table of a row in words, also of one whose name is lost; null: it is of none. */
export function tableWords({ table, id }: Pick<FoundRecord, "table" | "id">): string | null {
  if (table !== null) return table;
  const number = NAMELESS_ID.exec(id)?.[1];
  return number === undefined ? null : namelessWords(Number(number));
}

/** What a table is called whose name is lost. */
export const namelessWords = (number: number): string => `table ${number}, no name`;
