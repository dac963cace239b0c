import { folded, wordsOf } from "../../finds/fold.ts";
import { KeyTable } from "../../finds/key-table.ts";
import type { ContactValues, ConversationValues, FoundRecord, MessageValues, RecordKind } from "../../finds/record.ts";
import { EntryColumns } from "./entry-columns.ts";
import { EntryFacets, failing } from "./entry-facets.ts";
import { addressesIn } from "./entry-words.ts";
import { personLines } from "./person-lines.ts";
import { Persons } from "./persons.ts";
import type { EntryPlace, Narrow, PeopleCounts, PeopleFacets, PeopleQuery, PersonAnswer, PersonQuery, TalkView } from "./questions.ts";
import { type Talk, TalkTable } from "./talk-table.ts";

/** So many digits are a number to call. */
const LEAST_DIGITS = 5;
const SHOWN: readonly RecordKind[] = ["conversation", "contact", "call", "event"];

/** What people mean by rows, of all media of a ticket: counted, looked through and put in order. Entries themselves stay where they are kept. */
export class PeopleIndex {
  readonly #columns = new EntryColumns();
  readonly #talks = new TalkTable(this.#columns);
  readonly #keys = new KeyTable();
  /** Whose addresses are whose. */
  readonly persons = new Persons();
  /** Who was called what by a message: each names its sender, and once is enough. */
  readonly #calledSo = new Set<string>();
  readonly #counts = { conversation: 0, contact: 0, call: 0, event: 0 };

  get counts(): PeopleCounts {
    return { ...this.#counts };
  }

  /** Takes in an entry. One that is known already is where it is kept now. */
  put(entry: FoundRecord, place: EntryPlace): void {
    const key = `${place.medium}:${entry.id}`;
    const known = this.#keys.rowOf(key);
    if (known !== undefined) {
      this.#columns.place(known, place);
      return;
    }
    const addresses = addressesIn(entry).map((address) => this.persons.note(address));
    const row = this.#keys.put(key);
    this.#columns.put(row, entry, place, addresses);
    if (SHOWN.includes(entry.kind)) this.#counts[entry.kind as keyof PeopleCounts]++;
    if (entry.kind === "contact") this.persons.putCard((entry.values as ContactValues).name, addresses);
    else if (entry.kind === "conversation") this.#putTalk(entry, key, row, place.medium);
    else if (entry.kind === "message" || entry.kind === "chat") this.#putMessage(entry, row, place.medium, addresses);
  }

  #putTalk(entry: FoundRecord, key: string, row: number, medium: number): void {
    this.#talks.put(entry, key, row, medium);
    for (const { name, address } of (entry.values as ConversationValues).members ?? []) {
      if (!address && !name) continue;
      const id = this.persons.note(address || (name as string));
      if (address && name) this.persons.putName(id, name);
    }
  }

  #putMessage(entry: FoundRecord, row: number, medium: number, [address]: readonly number[]): void {
    if (this.#talks.putMessage(entry, row, medium)) this.#counts.conversation++;
    const { person, address: written } = entry.values as MessageValues;
    const said = `${address} ${person}`;
    if (!person || !written || this.#calledSo.has(said)) return;
    this.#calledSo.add(said);
    this.persons.putName(address, person);
  }

  /** What the address book calls whoever has an address. */
  nameOf = (address: string | undefined): string | undefined => this.persons.nameOf(address);

  /** What a conversation is called: as its app says, or by who is in it. */
  #titleOf({ values }: Talk): string {
    if (values.title) return values.title;
    const names = (values.members ?? [])
      .map(({ name, address }) => name ?? this.nameOf(address) ?? address)
      .filter((name): name is string => Boolean(name));
    if (names.length === 0) return "nobody known";
    return names.length > 3 ? `${names.slice(0, 3).join(", ")} and ${names.length - 3} more` : names.join(", ");
  }

  /** Conversations, the latest first. With words, days or a person: those in which such messages stand, and those that are called by the words. */
  talks(narrow: Narrow): TalkView[] {
    const asked = wordsOf(narrow.words);
    const passes = this.#passing(narrow);
    const isNarrow = narrowsMore(narrow);
    const views: TalkView[] = [];
    for (const talk of this.#talks.all()) {
      const order = this.#talks.ordered(talk);
      const title = this.#titleOf(talk);
      const members = (talk.values.members ?? []).map((one) => {
        const called = one.name ? undefined : this.nameOf(one.address);
        return { ...one, ...(called && { name: called }) };
      });
      const called = folded([title, ...members.flatMap(({ name, address }) => [name, address])].join("\n"));
      const isCalled = asked.every((word) => called.includes(word));
      let hits = 0;
      if (asked.length > 0 || isNarrow) for (const row of order) if (passes(row)) hits++;
      if (hits === 0 && (isNarrow || (asked.length > 0 && !isCalled))) continue;
      const last = order.length > 0 ? this.#columns.times[order[order.length - 1]] : Number.NaN;
      views.push({
        key: talk.key,
        medium: talk.medium,
        title,
        group: talk.values.group ?? members.length > 1,
        members,
        store: talk.store,
        database: talk.database,
        messages: order.length,
        erased: talk.erased,
        last: Number.isNaN(last) ? null : last,
        hits,
      });
    }
    return views.sort((a, b) => (b.last ?? -1) - (a.last ?? -1) || b.messages - a.messages);
  }

  /** Where the messages of a conversation are kept that hold all of this, in their order. */
  messages(key: string, narrow: Narrow = { words: "" }): EntryPlace[] {
    const talk = this.#talks.get(key);
    return talk ? this.#talks.ordered(talk).filter(this.#passing(narrow)).map(this.#columns.placeOf) : [];
  }

  /** Where a message stands in its conversation, from 0; -1: it is not in it. */
  placeIn(talk: string, key: string): number {
    const [told, row] = [this.#talks.get(talk), this.#keys.rowOf(key)];
    return told && row !== undefined ? this.#talks.ordered(told).indexOf(row) : -1;
  }

  /** Places in a conversation, from 0, of messages that hold all of this. */
  hits(key: string, narrow: Narrow): number[] {
    const talk = this.#talks.get(key);
    if (!talk || (wordsOf(narrow.words).length === 0 && !narrowsMore(narrow))) return [];
    const passes = this.#passing(narrow);
    return this.#talks.ordered(talk).flatMap((row, place) => (passes(row) ? [place] : []));
  }

  /** Where the last message of each conversation is kept that holds all of this; null where none does. */
  lastOf(keys: readonly string[], narrow: Narrow): (EntryPlace | null)[] {
    const passes = this.#passing(narrow);
    return keys.map((key) => {
      const talk = this.#talks.get(key);
      const row = talk && this.#talks.ordered(talk).findLast(passes);
      return row === undefined ? null : this.#columns.placeOf(row);
    });
  }

  /** Entries of a kind: contacts by their names, others the latest first; and how many there are in each facet. */
  ask({ kind, ...narrow }: PeopleQuery): PeopleFacets & { readonly places: EntryPlace[] } {
    const { times, textOf, placeOf } = this.#columns;
    const rows: number[] = [];
    const facets = this.#faceted([kind], narrow, (row) => rows.push(row));
    const names = new Map(kind === "contact" ? rows.map((row) => [row, textOf(row)]) : []);
    if (kind === "contact") rows.sort((a, b) => COLLATOR.compare(names.get(a) ?? "", names.get(b) ?? "") || a - b);
    else rows.sort((a, b) => (times[b] || 0) - (times[a] || 0) || a - b);
    return { places: rows.map(placeOf), ...facets };
  }

  /** How many entries of some kinds there are in each facet. */
  facets({ kinds, ...narrow }: Narrow & { readonly kinds: readonly RecordKind[] }): PeopleFacets {
    return this.#faceted(kinds, narrow, () => {});
  }

  /** Counts entries of some kinds that hold the words and the person; `onPassed` is told of those that pass all. */
  #faceted(kinds: readonly RecordKind[], narrow: Narrow, onPassed: (row: number) => void): PeopleFacets {
    const holds = this.#passing({ words: narrow.words, who: narrow.who });
    const fails = failing(narrow, this.#columns);
    const facets = new EntryFacets(this.#columns);
    const isWanted = this.#columns.areOf(kinds);
    for (let row = 0; row < this.#columns.length; row++) {
      if (!isWanted(row)) continue;
      facets.see(row);
      if (!holds(row)) continue;
      const failed = fails(row);
      facets.take(row, failed);
      if (failed === 0) onPassed(row);
    }
    return facets.told();
  }

  /** All that is of a person, or between them and the owner. Null: nobody is known so. */
  askPerson(query: PersonQuery): PersonAnswer | null {
    return personLines(query, this.#columns, this.#talks, this.persons);
  }

  /** How many of each kind are among keys; others are none of these. */
  kindsOf(keys: readonly string[]): Partial<Record<RecordKind, number>> {
    const counts: Partial<Record<RecordKind, number>> = {};
    for (const key of keys) {
      const row = this.#keys.rowOf(key);
      if (row === undefined) continue;
      const kind = this.#columns.kindOf(row);
      counts[kind] = (counts[kind] ?? 0) + 1;
    }
    return counts;
  }

  /** How many of each kind hold some words: messages for conversations. */
  hitsOf(words: string): PeopleCounts {
    const passes = this.#columns.holding(words, null);
    const hits = { conversation: 0, contact: 0, call: 0, event: 0 };
    for (let row = 0; row < this.#columns.length; row++) {
      const kind = this.#columns.kindOf(row);
      const counted = kind === "message" || kind === "chat" ? "conversation" : kind;
      if (kind !== "conversation" && counted in hits && passes(row)) hits[counted as keyof PeopleCounts]++;
    }
    return hits;
  }

  /** How many entries of some kinds hold all of this. */
  count({ kinds, ...narrow }: Narrow & { readonly kinds: readonly RecordKind[] }): number {
    const passes = this.#passing(narrow);
    const isWanted = this.#columns.areOf(kinds);
    let count = 0;
    for (let row = 0; row < this.#columns.length; row++) if (isWanted(row) && passes(row)) count++;
    return count;
  }

  /** Which of some keys hold all of this, and are of these kinds. */
  holding({ kinds, ...narrow }: Narrow & { readonly kinds: readonly RecordKind[] }): (key: string) => boolean {
    const passes = this.#passing(narrow);
    return (key) => {
      const row = this.#keys.rowOf(key);
      return row !== undefined && kinds.includes(this.#columns.kindOf(row)) && passes(row);
    };
  }

  /** Does a row hold the words, is it of these days, states and conditions, and of or with this person? */
  #passing({ words, days = null, who = "", states = [], conditions = [] }: Narrow): (row: number) => boolean {
    const all = [this.#columns.holding(words, days)];
    if (states.length + conditions.length > 0) {
      const fails = failing({ words: "", states, conditions }, this.#columns);
      all.push((row) => fails(row) === 0);
    }
    if (who.trim() !== "") all.push(this.#with(who));
    return all.length === 1 ? all[0] : (row) => all.every((passes) => passes(row));
  }

  /**
   * Is somebody in a row, or in its conversation? By a number however it is written, by what the address book calls one, and by the words of a name.
   */
  #with(who: string): (row: number) => boolean {
    const name = wordsOf(who);
    const digits = who.replace(/\D/g, "");
    const isNumber = digits.length >= LEAST_DIGITS;
    const own = new Set([this.persons.keyOf(who)]);
    for (const [key, called] of this.persons.bookNames) if (name.every((word) => folded(called).includes(word))) own.add(key);
    own.delete(null);
    const addresses = this.persons.idsWhere((written, key) => own.has(key) || (isNumber && written.replace(/\D/g, "").includes(digits)));
    const isNamed = (text: string | undefined) => text !== undefined && name.every((word) => folded(text).includes(word));
    const isIn = (address: string | undefined) => address !== undefined && own.has(this.persons.keyOf(address));
    const inTalk = new Uint8Array(this.#columns.length);
    for (const { values, rows: messages } of this.#talks.all()) {
      const members = values.members ?? [];
      if (isNamed(values.title) || members.some((one) => isNamed(one.name) || isIn(one.address)))
        for (const row of messages) inTalk[row] = 1;
    }
    const isSpokenOf = this.#columns.holding(who, null);
    const isTheirs = this.#columns.areTheirs(addresses);
    return (row) => inTalk[row] === 1 || isTheirs(row) || isSpokenOf(row);
  }

  /** Where entries are kept, by their keys. */
  placesOf(keys: readonly string[]): EntryPlace[] {
    return keys.flatMap((key) => {
      const row = this.#keys.rowOf(key);
      return row === undefined ? [] : [this.#columns.placeOf(row)];
    });
  }
}

/** Is anything asked besides words? */
const narrowsMore = ({ days = null, who = "", states = [], conditions = [] }: Narrow): boolean =>
  days !== null || who.trim() !== "" || states.length + conditions.length > 0;

const COLLATOR = new Intl.Collator();
