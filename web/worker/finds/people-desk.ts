import type { ContactChange, ContactValues, ConversationValues, FoundRecord, MessageValues } from "../../../core/finds/record.ts";
import { pastOf } from "../../../core/stores/people/as-it-was.ts";
import { PeopleIndex } from "../../../core/stores/people/people-index.ts";
import type { HandJoin, PersonView } from "../../../core/stores/people/persons.ts";
import {
  type EntryPlace,
  type Narrow,
  NOBODY,
  type PeopleCounts,
  type PeopleFacets,
  type PeopleQuery,
  type PersonAnswer,
  type PersonQuery,
  type TalkView,
} from "../../../core/stores/people/questions.ts";
import type { PeopleWant } from "../../../core/wants/questions.ts";
import { database } from "../../kept/database.ts";
import { type KeptEntry, KeptPeople } from "../../kept/kept-people.ts";

/** An entry as the screens have it: of which medium. */
export interface PersonEntry extends KeptEntry {
  readonly key: string;
  readonly medium: number;
}

export interface PeopleAnswer extends PeopleFacets {
  readonly total: number;
}

/** Chosen entries, and their conversations by id. */
export interface ChosenPeople {
  readonly entries: readonly PersonEntry[];
  readonly talks: readonly (readonly [string, { readonly title: string; readonly values: ConversationValues }])[];
}

/** What is of a person, without its entries: they are asked for by window. */
export interface PersonOutcome extends Omit<PersonAnswer, "places"> {
  readonly total: number;
}

const ALL_OF_A_PERSON: Omit<PersonQuery, "key"> = {
  kinds: [],
  states: [],
  conditions: [],
  days: null,
  words: "",
  apps: [],
  files: false,
  earliest: false,
};
/** Numbers of a card, of now and before, whose calls date it. */
const MOST_NUMBERS = 12;

/** Messages whose files are looked for. */
const MOST_WITH_FILES = 500;

/** Packs kept in memory, and letters of pictures of people in them. */
const IN_MEMORY = 40;
const MOST_PICTURES = 16 * 1024 * 1024;
const picturesIn = (pack: readonly KeptEntry[]): number =>
  pack.reduce((sum, { values }) => sum + ((values as ContactValues).photo?.length ?? 0), 0);
const nameOf = (medium: number, find: string, number: number) => JSON.stringify([medium, find, number]);

/** People's data of all media of a ticket, as it is kept: counted, looked through and handed out by window. */
export class PeopleDesk {
  #index = new PeopleIndex();
  /** How many entries of each pack were taken in. */
  #taken = new Map<string, number>();
  readonly #packs = new Map<string, readonly KeptEntry[]>();
  #asked: readonly EntryPlace[] = [];
  #said: { readonly joins: readonly HandJoin[]; readonly country: string | null } = { joins: [], country: null };
  #thread: { key: string; places: readonly EntryPlace[] } = { key: "", places: [] };

  get counts(): PeopleCounts {
    return this.#taken.size === 0 ? NOBODY : this.#index.counts;
  }

  /** What the ticket says of whose addresses are whose, and of which country numbers are. */
  say(joins: readonly HandJoin[], country: string | null): void {
    this.#said = { joins, country };
    this.#tell(this.#index);
  }

  #tell({ persons }: PeopleIndex): void {
    persons.setHand(this.#said.joins);
    persons.setCountry(this.#said.country);
  }

  /** Everything anew: media came or went, or a scan took the place of an earlier one. Until it is read what was read before is answered with. */
  async reread(media: readonly number[]): Promise<void> {
    const [index, taken] = [new PeopleIndex(), new Map<string, number>()];
    this.#tell(index);
    const put = () => {
      [this.#index, this.#taken] = [index, taken];
      this.#forgetThread();
    };
    // Where there was nothing, what is read shows as it comes.
    if (this.#taken.size === 0) put();
    this.#packs.clear();
    for (const medium of media) await this.#takeInto(index, taken, medium, null);
    put();
  }

  /** Takes in what was kept of a medium since; of these finds. */
  async take(medium: number, finds: readonly string[]): Promise<void> {
    await this.#takeInto(this.#index, this.#taken, medium, finds);
    this.#forgetThread();
  }

  /** What came may stand in the conversation that is open. */
  #forgetThread(): void {
    this.#thread = { key: "", places: [] };
  }

  async #takeInto(index: PeopleIndex, taken: Map<string, number>, medium: number, finds: readonly string[] | null): Promise<void> {
    const keys = await database.people.where("medium").equals(medium).primaryKeys();
    for (const [, find, number] of keys) {
      if (finds && !finds.includes(find)) continue;
      const name = nameOf(medium, find, number);
      const before = taken.get(name) ?? 0;
      const kept = KeptPeople.safeParse(await database.people.get([medium, find, number])).data;
      if (!kept) continue;
      this.#packs.delete(name);
      for (let position = before; position < kept.entries.length; position++)
        index.put(kept.entries[position], { medium, find, number, position });
      taken.set(name, kept.entries.length);
    }
  }

  /** How many of each kind hold some words. */
  hitsOf(words: string): PeopleCounts {
    return this.#index.hitsOf(words);
  }

  /** How many entries answer a want. */
  count(want: PeopleWant): number {
    return this.#index.count(want);
  }

  /** Which entries answer a want, by their keys. */
  answering(want: PeopleWant): (key: string) => boolean {
    return this.#index.holding(want);
  }

  talks(asked: Narrow): TalkView[] {
    return this.#index.talks(asked);
  }

  /** Opens a conversation. @returns how many messages it has */
  open(key: string): number {
    this.#thread = { key, places: this.#index.messages(key) };
    return this.#thread.places.length;
  }

  /** Where a message stands in a conversation now: what comes while a scan goes on stands between others. -1: it is not in it. */
  placeIn(talk: string, key: string): number {
    return this.#index.placeIn(talk, key);
  }

  /** Messages `from` to `to` of a conversation. */
  async messages(key: string, from: number, to: number): Promise<PersonEntry[]> {
    if (this.#thread.key !== key) this.open(key);
    return this.#entries(this.#thread.places.slice(from, to));
  }

  hits(key: string, narrow: Narrow): number[] {
    return this.#index.hits(key, narrow);
  }

  /** How many messages there are of each state, condition and day. */
  messageFacets(narrow: Narrow): PeopleFacets {
    return this.#index.facets({ ...narrow, kinds: ["message", "chat"] });
  }

  /** The last message of each conversation that holds all of this; null where none does. */
  async lastOf(keys: readonly string[], narrow: Narrow): Promise<(PersonEntry | null)[]> {
    const last: (PersonEntry | null)[] = [];
    for (const place of this.#index.lastOf(keys, narrow)) last.push(place ? ((await this.#entries([place]))[0] ?? null) : null);
    return last;
  }

  /** What the address book calls somebody, for several at once. */
  namesOf(addresses: readonly string[]): (string | null)[] {
    return addresses.map((address) => this.#index.nameOf(address) ?? null);
  }

  ask(query: PeopleQuery): PeopleAnswer {
    const { places, ...facets } = this.#index.ask(query);
    this.#asked = places;
    return { total: places.length, ...facets };
  }

  /** The time line of one person: its entries are those of the last answer then. Null: nobody is known so. */
  askPerson(query: PersonQuery): PersonOutcome | null {
    const answer = this.#index.askPerson(query);
    this.#asked = answer?.places ?? [];
    if (!answer) return null;
    const { places, ...told } = answer;
    return { total: places.length, ...told };
  }

  /** Keys of all that a question about a person is answered with; what was answered last stays as it is. */
  async keysOfPerson(query: PersonQuery): Promise<string[]> {
    return (await this.#entries(this.#index.askPerson(query)?.places ?? [])).map(({ key }) => key);
  }

  /** Paths, or names, of the files that the latest messages of a person name. */
  async filesOfPerson(query: PersonQuery): Promise<string[]> {
    const places = this.#index.askPerson({ ...query, files: true })?.places ?? [];
    const entries = await this.#entries(places.slice(0, MOST_WITH_FILES));
    return entries.flatMap(({ values }) => ((values as MessageValues).attachments ?? []).flatMap(({ path, name }) => path || name || []));
  }

  /** What a contact said before, dated by all that the ticket knows of its addresses. */
  async pastOf(key: string): Promise<readonly ContactChange[]> {
    const [entry] = await this.entriesOf([key]);
    const card = entry?.kind === "contact" ? (entry.values as ContactValues) : {};
    if (!card.history) return [];
    const before = card.history.flatMap(({ field, was }) => (field === "number" ? [was] : []));
    const numbers = [...(card.phones ?? []).map(({ number }) => number), ...before].slice(0, MOST_NUMBERS);
    const places = new Map<string, EntryPlace>();
    // Numbers of one person are asked for once: each question goes over everything.
    const asked = new Set(numbers.map((number) => this.#index.persons.of(number)?.key).filter((key) => key !== undefined));
    for (const number of asked)
      for (const place of this.#index.askPerson({ ...ALL_OF_A_PERSON, key: number, kinds: ["call", "contact"] })?.places ?? [])
        places.set(JSON.stringify(place), place);
    const others = (await this.#entries([...places.values()])).filter((one) => one.key !== key);
    return pastOf(card, others, (address) => this.#index.persons.keyOf(address));
  }

  /** Persons whose name or address holds all of the words. */
  persons(words: string, most: number): PersonView[] {
    return this.#index.persons.search(words, most);
  }

  /** Entries `from` to `to` of the last answer. */
  window(from: number, to: number): Promise<PersonEntry[]> {
    return this.#entries(this.#asked.slice(from, to));
  }

  /** How many of each kind are among keys. */
  kindsOf(keys: readonly string[]): Partial<Record<FoundRecord["kind"], number>> {
    return this.#index.kindsOf(keys);
  }

  entriesOf(keys: readonly string[]): Promise<PersonEntry[]> {
    return this.#entries(this.#index.placesOf(keys));
  }

  /** What was chosen of people's data, with the conversations that its messages are of: each by its medium, since two may name theirs alike. */
  async chosen(keys: readonly string[]): Promise<ChosenPeople> {
    const entries = (await this.entriesOf(keys)).map((entry) => {
      const { conversation } = entry.values as MessageValues;
      return conversation === undefined
        ? entry
        : { ...entry, values: { ...entry.values, conversation: `${entry.medium}:${conversation}` } };
    });
    const wanted = new Set(entries.flatMap(({ values }) => (values as MessageValues).conversation ?? []));
    const talks = wanted.size === 0 ? [] : this.#index.talks({ words: "" }).filter(({ key }) => wanted.has(key));
    return {
      entries,
      talks: talks.map(({ key, title, group, members }) => [key, { title, values: { title, group, members: [...members] } }]),
    };
  }

  /** Keys of the whole last answer. */
  async answerKeys(): Promise<string[]> {
    return (await this.#entries(this.#asked)).map(({ key }) => key);
  }

  /** Keys of the messages of a conversation that hold all of this. */
  async keysOf(talk: string, narrow: Narrow): Promise<string[]> {
    return (await this.#entries(this.#index.messages(talk, narrow))).map(({ key }) => key);
  }

  async #entries(places: readonly EntryPlace[]): Promise<PersonEntry[]> {
    const entries: PersonEntry[] = [];
    for (const { medium, find, number, position } of places) {
      const entry = (await this.#pack(medium, find, number))[position];
      if (entry) entries.push({ ...entry, key: `${medium}:${entry.id}`, medium });
    }
    return entries;
  }

  async #pack(medium: number, find: string, number: number): Promise<readonly KeptEntry[]> {
    const name = nameOf(medium, find, number);
    const known = this.#packs.get(name);
    if (known) return known;
    const entries = KeptPeople.safeParse(await database.people.get([medium, find, number])).data?.entries ?? [];
    this.#packs.set(name, entries);
    let pictures = 0;
    for (const pack of this.#packs.values()) pictures += picturesIn(pack);
    for (const [old, pack] of this.#packs) {
      if (old === name || (this.#packs.size <= IN_MEMORY && pictures <= MOST_PICTURES)) break;
      this.#packs.delete(old);
      pictures -= picturesIn(pack);
    }
    return entries;
  }
}
