import { existsSync, readFileSync } from "node:fs";
import { gunzipSync } from "node:zlib";
import { z } from "zod";
import { memorySource } from "../core/bytes/memory-source.ts";
import type { CallValues, ContactValues, ConversationValues, EventValues, MessageValues } from "../core/finds/record.ts";
import { DatabaseFiles } from "../core/sqlite/files/database-files.ts";
import { recoverRows } from "../core/sqlite/recover.ts";
import { KNOWN_TABLES } from "../core/sqlite/tables/known-tables.ts";
import { Gathered } from "../core/stores/gathered.ts";
import type { Entry } from "../core/stores/store.ts";

/** What a perfect engine tells of people in the kept databases, worked out from the account of every row when they were written. */
const Person = z.object({ name: z.string().nullish(), address: z.string().nullish(), otherAddresses: z.array(z.string()).optional() });
const Common = { state: z.enum(["present", "binned", "hidden", "erased"]), ceiling: z.boolean() };
const Truth = z.object({
  messages: z.array(
    z.object({
      ...Common,
      conversation: z.string().nullable(),
      at: z.string(),
      direction: z.string().nullable(),
      sender: Person.nullable(),
      text: z.string().nullable(),
      attachments: z.array(z.object({ name: z.string().nullable(), path: z.string().nullable() })).nullable(),
      edited: z.boolean().nullish(),
    }),
  ),
  conversations: z.array(z.object({ ...Common, id: z.string(), title: z.string().nullable(), group: z.boolean() })),
  contacts: z.array(
    z.object({
      ...Common,
      name: z.string().nullable(),
      phones: z.array(z.object({ number: z.string() })).nullable(),
      hiddenBy: z.object({ account: z.string().nullish(), group: z.string().nullish() }).nullish(),
      partsLost: z.boolean().optional(),
    }),
  ),
  calls: z.array(
    z.object({ ...Common, number: z.string(), name: z.string().nullish(), at: z.string(), seconds: z.number(), direction: z.string() }),
  ),
  events: z.array(
    z.object({ ...Common, title: z.string().nullable(), place: z.string().nullable(), start: z.string(), allDay: z.boolean() }),
  ),
});
export type PeopleTruth = z.infer<typeof Truth>;

const unpacked = (path: string): Buffer => gunzipSync(readFileSync(path));
export const peopleTruth = (name: string): PeopleTruth =>
  Truth.parse(JSON.parse(unpacked(`test/databases/${name}.db.people.json.gz`).toString()));

/** A kept database, recovered. */
export async function gatheredKept(name: string): Promise<Gathered> {
  const beside = (ending: string) => {
    const path = `test/databases/${name}.db-${ending}.gz`;
    return existsSync(path) ? memorySource(new Uint8Array(unpacked(path))) : undefined;
  };
  const main = memorySource(new Uint8Array(unpacked(`test/databases/${name}.db.gz`)));
  const files = await DatabaseFiles.open({ main, wal: beside("wal"), journal: beside("journal") });
  if (!files) throw new Error(`${name} is no database`);
  const gathered = new Gathered("e0", `/${name}.db`);
  for await (const { rows } of recoverRows(files, KNOWN_TABLES, new AbortController().signal)) gathered.take(rows);
  return gathered;
}

/** Of what should be told and what was told of it (unclear: a damaged database does not say whether a row was in use), by state, and what is not right of it. */
export interface Account {
  readonly asked: Readonly<Record<string, number>>;
  readonly right: Readonly<Record<string, number>>;
  readonly wrong: readonly string[];
  /** Told, and neither there nor ever. */
  readonly invented: number;
}

function account<T extends { state: string; ceiling: boolean }>(
  truths: readonly T[],
  told: readonly Entry[],
  keys: { truth: (one: T) => string; told: (one: Entry) => string },
  wrongIn: (truth: T, told: Entry) => string | null,
): Account {
  const byKey = new Map<string, Entry[]>();
  for (const one of told) byKey.set(keys.told(one), [...(byKey.get(keys.told(one)) ?? []), one]);
  const known = new Set(truths.map(keys.truth));
  const [asked, right]: Record<string, number>[] = [{}, {}];
  const wrong: string[] = [];
  const order = [...truths].sort((a, b) => Number(b.ceiling) - Number(a.ceiling));
  for (const truth of order) {
    const some = byKey.get(keys.truth(truth)) ?? [];
    const best = some.findIndex((one) => wrongIn(truth, one) === null && one.state === truth.state);
    const [one] = some.splice(Math.max(0, best), 1);
    if (!truth.ceiling) continue;
    asked[truth.state] = (asked[truth.state] ?? 0) + 1;
    const bad = !one ? "missed" : one.state !== truth.state && one.state !== "unclear" ? `state ${one.state}` : wrongIn(truth, one);
    if (bad === null) right[truth.state] = (right[truth.state] ?? 0) + 1;
    else wrong.push(`${bad}: ${truth.state} ${keys.truth(truth).slice(0, 90)}`);
  }
  return { asked, right, wrong, invented: told.filter((one) => !known.has(keys.told(one))).length };
}

const moment = (at: string | undefined) => (at === undefined ? "no time" : at.slice(0, 19));
const digits = (text: string | null | undefined) => (text ?? "").replace(/\D/g, "");

export const callsOf = ({ calls }: PeopleTruth, entries: readonly Entry[]): Account =>
  account(
    calls,
    entries.filter(({ kind }) => kind === "call"),
    {
      truth: ({ at, number }) => `${moment(at)} ${digits(number)}`,
      told: ({ values }) => `${moment((values as CallValues).at)} ${digits((values as CallValues).number)}`,
    },
    (truth, { values }) => {
      const { seconds = 0, direction, name } = values as CallValues;
      return seconds !== truth.seconds
        ? "seconds"
        : direction !== truth.direction
          ? "direction"
          : (name ?? "") !== (truth.name ?? "")
            ? "name"
            : null;
    },
  );

export const eventsOf = ({ events }: PeopleTruth, entries: readonly Entry[]): Account =>
  account(
    events,
    entries.filter(({ kind }) => kind === "event"),
    {
      truth: ({ title, start }) => `${title ?? ""} ${start.slice(0, 10)}`,
      told: ({ values }) => `${(values as EventValues).title ?? ""} ${(values as EventValues).start?.slice(0, 10)}`,
    },
    (truth, { values }) => {
      const { place, start, allDay } = values as EventValues;
      if ((place ?? "") !== (truth.place ?? "")) return "place";
      return Boolean(allDay) !== truth.allDay ? "all day" : !truth.allDay && start !== truth.start ? "start" : null;
    },
  );

export const contactsOf = ({ contacts }: PeopleTruth, entries: readonly Entry[]): Account =>
  account(
    contacts,
    entries.filter(({ kind }) => kind === "contact"),
    { truth: ({ name }) => name ?? "", told: ({ values }) => (values as ContactValues).name ?? "" },
    (truth, { values }) => {
      const { phones = [], hiddenBy } = values as ContactValues;
      const said = phones.map(({ number }) => digits(number));
      if (!(truth.phones ?? []).every(({ number }) => said.includes(digits(number)))) return "phones";
      if (!truth.partsLost && said.length !== (truth.phones ?? []).length) return "too many phones";
      const { account: by, group } = truth.hiddenBy ?? {};
      return by && hiddenBy?.account !== by ? "account that hides it" : group && hiddenBy?.group !== group ? "group that hides it" : null;
    },
  );

/** Messages with their time, text, side, sender, attachments; and that those of one conversation are told as of one. */
export function messagesOf(truth: PeopleTruth, entries: readonly Entry[]): Account {
  const told = entries.filter(({ kind }) => kind === "chat" || kind === "message");
  const keys = {
    truth: ({ at, text }: { at: string; text: string | null }) => `${moment(at)} ${(text ?? "").trim()}`,
    told: ({ values }: Entry) => `${moment((values as MessageValues).at)} ${((values as MessageValues).text ?? "").trim()}`,
  };
  const votes = new Map<string, Map<string, number>>();
  const byKey = new Map(told.map((one) => [keys.told(one), one]));
  for (const one of truth.messages) {
    const id = (byKey.get(keys.truth(one))?.values as MessageValues | undefined)?.conversation;
    if (!one.conversation || !id) continue;
    const some = votes.get(one.conversation) ?? new Map<string, number>();
    some.set(id, (some.get(id) ?? 0) + 1);
    votes.set(one.conversation, some);
  }
  const conversation = new Map([...votes].map(([id, some]) => [id, [...some].sort((a, b) => b[1] - a[1])[0][0]]));
  return account(truth.messages, told, keys, (one, { values }) => {
    const { direction, conversation: id, address, person, attachments = [], edited } = values as MessageValues;
    if (one.direction !== null && direction !== one.direction) return `direction ${direction}`;
    if (one.conversation !== null && id !== conversation.get(one.conversation)) return "conversation";
    const known = [one.sender?.address, ...(one.sender?.otherAddresses ?? [])];
    if (one.sender && one.direction === "in" && !known.includes(address) && person !== one.sender.name) return "sender";
    if (one.attachments && attachments.length !== one.attachments.length) return "attachments";
    if (one.attachments?.some(({ path }) => path !== null && !attachments.some((other) => other.path === path)))
      return "path of an attachment";
    return one.edited && !edited ? "edited" : null;
  });
}

/** Titles and sizes of conversations, by the messages in them. */
export const titlesOf = (entries: readonly Entry[]): Map<string, ConversationValues> =>
  new Map(entries.flatMap(({ id, kind, values }) => (kind === "conversation" ? [[id, values as ConversationValues] as const] : [])));
