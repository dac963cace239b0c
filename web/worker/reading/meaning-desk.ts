import type { PatientSource } from "../../../core/bytes/patient-source.ts";
import type { Find } from "../../../core/finds/find.ts";
import type { ConversationValues, MessageValues } from "../../../core/finds/record.ts";
import { DatabaseFinds } from "../../../core/scan/database-finds.ts";
import { readRecords } from "../../../core/scan/records.ts";
import { Gathered } from "../../../core/stores/gathered.ts";
import type { ByHand } from "../../../core/stores/mapping/by-hand.ts";
import { fingerprintOf, packageOf } from "../../../core/stores/mapping/fingerprint.ts";
import type { Mapping } from "../../../core/stores/mapping/mapping.ts";
import { MeaningReader } from "../../../core/stores/mapping/meaning.ts";
import { readAll } from "../../../core/stores/mapping/read-all.ts";
import { fits } from "../../../core/stores/mapping/read-mapped.ts";
import type { Entry } from "../../../core/stores/store.ts";
import { keptEntryOf } from "../../kept/kept-people.ts";
import { knownMappings } from "../../kept/known-mappings.ts";
import type { Found } from "../finds/protocol.ts";
import type { MeaningAnswer, ReadMessages, ReadTalk, Verdict } from "./meaning-protocol.ts";

/** Messages of one conversation that are shown beside what is said. */
const MOST_SHOWN = 300;
/** Why it is read so, where somebody looked at it. */
const SURE = 1;

/** One database that somebody says the meaning of. All its rows are at hand. */
export class MeaningDesk {
  readonly #find: Found;
  readonly #gathered: Gathered;
  readonly #reader: MeaningReader;
  #entries: readonly Entry[] = [];

  private constructor(find: Found, gathered: Gathered) {
    this.#find = find;
    this.#gathered = gathered;
    this.#reader = new MeaningReader(gathered);
  }

  /**
   * Reads all rows of a database. `set`: the find with its log and journal; `tell` hears which part is done.
   * @throws where it is no database, holds more rows than can be at hand at once, or its medium does not answer
   */
  static async open(
    find: Found,
    set: readonly Find[],
    source: PatientSource,
    signal: AbortSignal,
    tell: (part: number) => void,
  ): Promise<MeaningDesk> {
    const chosen = new DatabaseFinds();
    for (const one of set.length > 0 ? set : [find]) chosen.note(one);
    const gathered = new Gathered(find.id, find.path);
    let told = 0;
    for await (const { rows, done, total } of readRecords(chosen, source, signal, null)) {
      if (rows && !gathered.take(rows.rows)) throw new Error("It has more rows than can be looked at like this: its tables are there.");
      const part = total === 0 ? 1 : done / total;
      if (part - told > 0.01) tell((told = part));
    }
    if (gathered.rows === 0) throw new Error("No rows can be told apart in it.");
    return new MeaningDesk(find, gathered);
  }

  get fingerprint(): string {
    return fingerprintOf(this.#gathered);
  }

  async answer(said: ByHand): Promise<MeaningAnswer> {
    const { meaning, entries } = this.#reader.read(said);
    this.#entries = entries;
    const { refused } = await knownMappings();
    const tables = this.#gathered.tables;
    return {
      meaning,
      app: packageOf(this.#find.path),
      rows: this.#gathered.rows,
      erased: tables.reduce((sum, { rows }) => sum + rows.filter(({ isThere }) => !isThere).length, 0),
      talks: talksIn(entries),
      isRefused: refused.has(this.fingerprint),
    };
  }

  /** The first messages of a conversation as it reads with what was said last. */
  messages(talk: string): ReadMessages {
    const own = this.#entries.filter(({ kind, values }) => kind === "chat" && ((values as MessageValues).conversation ?? "") === talk);
    own.sort((a, b) => timeOf(a).localeCompare(timeOf(b)));
    // Erased ones are what is looked for: the stretch that is shown begins a little before the first of them.
    const first = own.findIndex(({ state }) => state === "erased");
    const from = Math.max(0, Math.min(first - 20, own.length - MOST_SHOWN));
    return own.slice(from, from + MOST_SHOWN).flatMap((entry) => {
      const kept = keptEntryOf(entry);
      return kept ? [{ ...kept, key: `${this.#find.medium}:${entry.id}`, medium: this.#find.medium }] : [];
    });
  }

  /**
   * The mapping that a verdict makes, named after the database and its app, and all that it reads.
   * @throws a sentence where it does not read this database
   */
  judged(verdict: Verdict): { mapping: Mapping | null; entries: readonly Entry[] } {
    if (verdict.by === "no messenger") return { mapping: null, entries: [] };
    const given = verdict.by === "file" ? verdict.mapping : this.#reader.read(verdict.said).meaning.mapping;
    if (!given) throw new Error("With what was said nothing in it reads as messages.");
    const name = this.#find.path?.split("/").at(-1) ?? this.#find.name ?? "a database";
    const app = packageOf(this.#find.path);
    const mapping = verdict.by === "file" ? given : { ...given, app, name: app ?? name, sureness: SURE };
    if (!fits(this.#gathered, mapping)) throw new Error("This mapping is of other tables than this database has.");
    return { mapping, entries: readAll(this.#gathered, mapping, mapping.name) };
  }
}

const timeOf = ({ values }: Entry): string => (values as MessageValues).at ?? "";

/** Conversations as they read, those with most erased messages first. */
function talksIn(entries: readonly Entry[]): ReadTalk[] {
  const talks = new Map<string, { title: string; messages: number; erased: number }>();
  for (const { id, kind, values } of entries) {
    if (kind !== "conversation") continue;
    const { title, members = [] } = values as ConversationValues;
    const names = members.flatMap(({ name, address }) => name ?? address ?? []);
    talks.set(id, { title: title ?? (names.slice(0, 3).join(", ") || "without a name"), messages: 0, erased: 0 });
  }
  for (const { kind, state, values } of entries) {
    if (kind !== "chat") continue;
    const key = (values as MessageValues).conversation ?? "";
    const talk = talks.get(key) ?? { title: "of no conversation", messages: 0, erased: 0 };
    talk.messages++;
    if (state === "erased") talk.erased++;
    talks.set(key, talk);
  }
  return [...talks]
    .map(([id, talk]) => ({ id, ...talk }))
    .filter(({ messages }) => messages > 0)
    .sort((a, b) => b.erased - a.erased || b.messages - a.messages);
}
