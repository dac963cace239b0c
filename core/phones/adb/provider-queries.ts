/** What people's data are asked of the system's own providers by. */
export type PeopleKind = "contacts" | "messages" | "calls" | "calendar" | "media";

/** One question to a provider. The column of free text stands last: a value may hold anything, and is not escaped. */
export interface ProviderQuery {
  readonly kind: PeopleKind;
  /** Of the file that its answer is kept in. */
  readonly name: string;
  readonly uri: string;
  readonly columns: readonly string[];
  /** What every version knows: asked for where a provider refuses the columns above, since it refuses all where it lacks one. */
  readonly older?: readonly string[];
  /** A condition on rows, as the `content` command takes it. */
  readonly where?: string;
  /** What is still told without it: a provider that lacks it is no loss that is said. */
  readonly beside?: true;
}

const CONTACTS = "content://com.android.contacts";
const CALENDAR = "content://com.android.calendar";
const data = (from: number, to: number) => Array.from({ length: to - from + 1 }, (_, index) => `data${from + index}`);

/**
 * Providers and columns by their published names (Android Open Source Project: ContactsContract, Telephony, CallLog, CalendarContract, MediaStore). The first
 * of each kind is the one that it cannot be told without.
 */
export const PROVIDER_QUERIES: readonly ProviderQuery[] = [
  {
    kind: "contacts",
    name: "contacts",
    uri: `${CONTACTS}/data`,
    columns: ["_id", "raw_contact_id", "contact_id", "mimetype", "in_visible_group", ...data(2, 15), "display_name", "data1"],
    older: ["raw_contact_id", "mimetype", "in_visible_group", "data2", "data3", "display_name", "data1"],
  },
  {
    kind: "contacts",
    name: "raw contacts",
    uri: `${CONTACTS}/raw_contacts`,
    columns: ["_id", "contact_id", "deleted", "account_type", "account_name", "display_name"],
    older: ["_id", "contact_id", "deleted", "account_type", "account_name"],
  },
  {
    kind: "contacts",
    name: "shown contacts",
    uri: `${CONTACTS}/contacts`,
    columns: ["_id", "in_visible_group", "contact_last_updated_timestamp", "display_name"],
    older: ["_id", "in_visible_group", "display_name"],
    beside: true,
  },
  {
    // Contacts that carry the mark of deletion are joined with nothing else: their rows of data are told here alone.
    kind: "contacts",
    name: "deleted raw contacts",
    uri: `${CONTACTS}/raw_contact_entities`,
    columns: ["data_id", "_id", "mimetype", ...data(2, 14), "data1"],
    where: "deleted=1",
    beside: true,
  },
  {
    kind: "contacts",
    name: "groups",
    uri: `${CONTACTS}/groups`,
    columns: ["_id", "account_type", "account_name", "group_visible", "deleted", "title"],
    beside: true,
  },
  {
    kind: "contacts",
    name: "settings",
    uri: `${CONTACTS}/settings`,
    columns: ["account_type", "account_name", "ungrouped_visible"],
    beside: true,
  },
  {
    kind: "contacts",
    name: "deleted contacts",
    uri: `${CONTACTS}/deleted_contacts`,
    columns: ["contact_id", "contact_deleted_timestamp"],
    beside: true,
  },
  {
    kind: "messages",
    name: "messages",
    uri: "content://sms",
    columns: ["_id", "thread_id", "address", "date", "type", "subject", "body"],
    older: ["_id", "thread_id", "address", "date", "type", "body"],
  },
  {
    kind: "messages",
    name: "threads",
    uri: "content://mms-sms/conversations?simple=true",
    columns: ["_id", "recipient_ids"],
    beside: true,
  },
  {
    kind: "messages",
    name: "addresses",
    uri: "content://mms-sms/canonical-addresses",
    columns: ["_id", "address"],
    beside: true,
  },
  {
    kind: "messages",
    name: "multimedia messages",
    uri: "content://mms",
    columns: ["_id", "thread_id", "date", "msg_box", "sub"],
    beside: true,
  },
  {
    kind: "messages",
    name: "parts",
    uri: "content://mms/part",
    columns: ["_id", "mid", "seq", "ct", "name", "cl", "fn", "_data", "text"],
    beside: true,
  },
  {
    kind: "calls",
    name: "calls",
    uri: "content://call_log/calls",
    columns: ["_id", "number", "date", "duration", "type", "name"],
  },
  {
    kind: "calendar",
    name: "calendar",
    uri: `${CALENDAR}/events`,
    columns: [
      "_id",
      "calendar_id",
      "dtstart",
      "dtend",
      "duration",
      "allDay",
      "deleted",
      "rrule",
      "_sync_id",
      "uid2445",
      "eventLocation",
      "title",
      "description",
    ],
    older: ["_id", "calendar_id", "dtstart", "dtend", "duration", "allDay", "rrule", "eventLocation", "title", "description"],
  },
  { kind: "calendar", name: "calendars", uri: `${CALENDAR}/calendars`, columns: ["_id", "visible", "calendar_displayName"], beside: true },
  {
    kind: "calendar",
    name: "attendees",
    uri: `${CALENDAR}/attendees`,
    columns: ["_id", "event_id", "attendeeEmail", "attendeeName"],
    beside: true,
  },
  { kind: "calendar", name: "reminders", uri: `${CALENDAR}/reminders`, columns: ["_id", "event_id", "method", "minutes"], beside: true },
  {
    kind: "media",
    name: "media",
    uri: "content://media/external/file",
    columns: ["_id", "format", "_size", "mime_type", "datetaken", "date_modified", "is_trashed", "date_expires", "_display_name", "_data"],
    older: ["_id", "format", "_size", "mime_type", "date_modified", "_display_name", "_data"],
  },
];

/** The question that a kind cannot be told without. */
export const mainQuery = (kind: PeopleKind): ProviderQuery => PROVIDER_QUERIES.find((one) => one.kind === kind) as ProviderQuery;

/** Whom one multimedia message is from and to (Telephony.Mms.Addr): asked for each by itself, there is no list of all. */
export const addressesOf = (message: string): ProviderQuery => ({
  kind: "messages",
  name: "multimedia addresses",
  uri: `content://mms/${message}/addr`,
  columns: ["_id", "msg_id", "type", "address"],
  beside: true,
});
/** Where a part of a multimedia message, and the small picture of a contact, are opened as a file (Telephony.Mms.Part; ContactsContract.Contacts.Photo). */
export const partUri = (part: string): string => `content://mms/part/${part}`;
export const photoUri = (contact: string): string => `${CONTACTS}/contacts/${contact}/photo`;
