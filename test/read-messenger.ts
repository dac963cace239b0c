import { memorySource } from "../core/bytes/memory-source.ts";
import type { ConversationValues, MessageValues } from "../core/finds/record.ts";
import { DatabaseFiles } from "../core/sqlite/files/database-files.ts";
import { recoverRows } from "../core/sqlite/recover.ts";
import { KNOWN_TABLES } from "../core/sqlite/tables/known-tables.ts";
import { Gathered } from "../core/stores/gathered.ts";
import type { Mapping } from "../core/stores/mapping/mapping.ts";
import { propose } from "../core/stores/mapping/propose.ts";
import { readMapped } from "../core/stores/mapping/read-mapped.ts";
import type { Entry } from "../core/stores/store.ts";
import type { Messenger, Said } from "./messengers.ts";

/** The rows of a database of some bytes, recovered. */
export async function gatheredOf(bytes: Uint8Array): Promise<Gathered> {
  const files = await DatabaseFiles.open({ main: memorySource(bytes) });
  const gathered = new Gathered("e0", "/data/some.db");
  if (!files) throw new Error("it is no database");
  for await (const { rows } of recoverRows(files, KNOWN_TABLES, new AbortController().signal)) gathered.take(rows);
  return gathered;
}

/** How much of what was said is read right, of what is there, and of what was erased. */
export interface Right {
  readonly sureness: number;
  readonly mapping: Mapping | null;
  readonly live: number;
  readonly erased: number;
  /** What is wrong, how often. */
  readonly wrong: Readonly<Record<string, number>>;
  /** Messages that nobody wrote. */
  readonly invented: number;
}

export async function rightShare({ said, bytes }: Messenger): Promise<Right> {
  const gathered = await gatheredOf(bytes);
  const proposed = propose(gathered);
  if (!proposed) return { sureness: 0, mapping: null, live: 0, erased: 0, wrong: { proposal: 1 }, invented: 0 };
  const entries = readMapped(gathered, proposed.mapping, "proposed");
  return { ...rightOf(said, entries), sureness: proposed.mapping.sureness, mapping: proposed.mapping };
}

const keyOf = (at: number, text: string) => `${Math.floor(at / 1000)} ${text}`;

/** Holds entries against what was said: time, text, side, and that a conversation holds what belongs together. */
export function rightOf(said: readonly Said[], entries: readonly Entry[]): Omit<Right, "sureness" | "mapping"> {
  const chats = entries.filter(({ kind }) => kind === "chat");
  const members = new Map(
    entries.flatMap(({ id, kind, values }) => (kind === "conversation" ? [[id, values as ConversationValues] as const] : [])),
  );
  const byKey = new Map<string, Entry[]>();
  for (const entry of chats) {
    const { at, text } = entry.values as MessageValues;
    const key = keyOf(Date.parse(at ?? ""), text ?? "");
    byKey.set(key, [...(byKey.get(key) ?? []), entry]);
  }
  const wrong: Record<string, number> = {};
  const note = (what: string) => {
    wrong[what] = (wrong[what] ?? 0) + 1;
  };
  const talks = new Map<string, Map<number, number>>();
  const matched = new Map<Said, Entry>();
  for (const one of said) {
    const entry = [0, -1000, 1000].flatMap((off) => byKey.get(keyOf(one.at + off, one.text)) ?? [])[0];
    if (!entry) continue;
    matched.set(one, entry);
    const { conversation } = entry.values as MessageValues;
    if (conversation === undefined) continue;
    const counts = talks.get(conversation) ?? new Map<number, number>();
    counts.set(one.talk.id, (counts.get(one.talk.id) ?? 0) + 1);
    talks.set(conversation, counts);
  }
  // One to one: a conversation is that of which it has most, and no other is.
  const talkOf = new Map<string, number>();
  const taken = new Set<number>();
  for (const [conversation, talk] of [...talks]
    .flatMap(([id, counts]) => [...counts].map(([talk, count]) => [id, talk, count] as const))
    .sort((a, b) => b[2] - a[2]))
    if (!talkOf.has(conversation) && !taken.has(talk)) {
      talkOf.set(conversation, talk);
      taken.add(talk);
    }
  let [live, lives, erased, erasures] = [0, 0, 0, 0];
  for (const one of said) {
    const entry = matched.get(one);
    if (one.erased && !entry) continue;
    const values = entry?.values as MessageValues | undefined;
    const bad = !values
      ? "missed"
      : values.direction !== one.direction
        ? `direction ${one.direction} as ${values.direction}`
        : talkOf.get(values.conversation ?? "") !== one.talk.id
          ? "conversation"
          : null;
    // Of an erased one what joined it may be gone.
    if (!one.erased && values && one.sender && values.address !== one.sender.address && values.person !== one.sender.name) note("sender");
    if (!one.erased && values && one.file && values.attachments?.[0]?.path !== one.file) note("attachment");
    const told = values?.conversation === undefined ? undefined : members.get(values.conversation);
    if (told && Boolean(told.group) !== one.talk.group) note("group");
    if (one.erased) erasures++;
    else lives++;
    if (bad === null) one.erased ? erased++ : live++;
    else note(bad);
  }
  const known = new Set(said.flatMap(({ at, text }) => [0, -1000, 1000].map((off) => keyOf(at + off, text))));
  const invented = chats.filter(
    ({ values }) =>
      (values as MessageValues).text !== undefined &&
      !known.has(keyOf(Date.parse((values as MessageValues).at ?? ""), (values as MessageValues).text ?? "")),
  ).length;
  return { live: live / Math.max(1, lives), erased: erasures > 0 ? erased / erasures : 1, wrong, invented };
}
