import type { ConversationValues, FoundRecord, MessageValues, RecordKind } from "../../finds/record.ts";
import { type Item, textBytes } from "../item.ts";
import { cleanName, freeName } from "../names.ts";
import { conversationPage } from "./conversation-page.ts";
import { icalendarOf } from "./icalendar.ts";
import { csvOf, jsonOf } from "./tables.ts";
import { type VcardVersion, vcardOf } from "./vcard.ts";

/** In what form each kind is given back. */
export interface Forms {
  readonly contacts: readonly (`vcard ${VcardVersion}` | "csv" | "json")[];
  readonly messages: readonly ("html" | "csv" | "json")[];
  readonly calls: readonly ("csv" | "json")[];
  readonly events: readonly ("ical" | "csv" | "json")[];
}
export const USUAL_FORMS: Forms = {
  contacts: ["vcard 4.0", "csv"],
  messages: ["html", "csv", "json"],
  calls: ["csv", "json"],
  events: ["ical", "csv"],
};

/** The conversations that messages are of, by their ids. */
export type TalksById = ReadonlyMap<string, { readonly title: string; readonly values: ConversationValues }>;

const FOLDER = "people";
const isOf =
  (...kinds: readonly RecordKind[]) =>
  ({ kind }: FoundRecord): boolean =>
    kinds.includes(kind);

/**
 * Files of what people mean by rows: one for each kind and form, and a page for each conversation. They are made now and written like any other, read
 * back and compared. `at`: when, in milliseconds since 1970.
 */
export function planPeople(entries: readonly FoundRecord[], talks: TalksById, forms: Forms, at: number): Item<never>[] {
  const taken = new Set<string>();
  const items: Item<never>[] = [];
  const put = (name: string, text: string, some: readonly FoundRecord[]) =>
    items.push({ path: `${FOLDER}/${freeName(name, taken)}`, pieces: { bytes: textBytes(text) }, sha256: null, about: aboutOf(some) });
  const tables = (name: string, some: readonly FoundRecord[], wanted: readonly string[]) => {
    if (wanted.includes("csv")) put(`${name}.csv`, csvOf(some), some);
    if (wanted.includes("json")) put(`${name}.json`, jsonOf(some), some);
  };
  const contacts = entries.filter(isOf("contact"));
  if (contacts.length > 0) {
    for (const version of ["4.0", "3.0"] as const)
      if (forms.contacts.includes(`vcard ${version}`))
        put(version === "4.0" ? "contacts.vcf" : "contacts 3.0.vcf", contacts.map((one) => vcardOf(one, version)).join(""), contacts);
    tables("contacts", contacts, forms.contacts);
  }
  const calls = entries.filter(isOf("call"));
  if (calls.length > 0) tables("calls", calls, forms.calls);
  const events = entries.filter(isOf("event"));
  if (events.length > 0) {
    if (forms.events.includes("ical")) put("calendar.ics", icalendarOf(events, at), events);
    tables("calendar", events, forms.events);
  }
  const messages = entries.filter(isOf("message", "chat")).sort((a, b) => momentOf(a).localeCompare(momentOf(b)));
  if (messages.length > 0) {
    if (forms.messages.includes("html"))
      for (const [id, some] of byTalk(messages)) {
        const talk = talks.get(id) ?? { title: "messages", values: {} };
        put(`${cleanName(talk.title).slice(0, 80)}.html`, conversationPage({ ...talk, messages: some }), some);
      }
    tables("messages", messages, forms.messages);
  }
  return items;
}

const momentOf = ({ values }: FoundRecord): string => (values as MessageValues).at ?? "";

function byTalk(messages: readonly FoundRecord[]): Map<string, FoundRecord[]> {
  const talks = new Map<string, FoundRecord[]>();
  for (const message of messages) {
    const id = (message.values as MessageValues).conversation ?? "";
    const some = talks.get(id);
    if (some) some.push(message);
    else talks.set(id, [message]);
  }
  return talks;
}

function aboutOf(entries: readonly FoundRecord[]): string {
  const erased = entries.filter(({ state }) => state === "erased").length;
  return `${entries.length} ${entries.length === 1 ? "entry" : "entries"}${erased > 0 ? `, ${erased} of them erased` : ""}`;
}
