import { folded, wordsOf } from "../finds/fold.ts";
import type {
  CallValues,
  ContactValues,
  ConversationValues,
  EventValues,
  FoundRecord,
  MessageValues,
  RecordKind,
  RecordState,
} from "../finds/record.ts";
import { addressKey, countryOf } from "./numbers.ts";

/** Where an entry is kept. */
export interface EntryPlace {
  readonly medium: number;
  readonly find: string;
  readonly number: number;
  readonly position: number;
}

/** What is shown of a conversation in a list. */
export interface TalkView {
  readonly key: string;
  readonly medium: number;
  readonly title: string;
  readonly group: boolean;
  readonly members: readonly { readonly name?: string; readonly address?: string }[];
  readonly store: string;
  readonly messages: number;
  readonly erased: number;
  /** Moment of the last message, or null. */
  readonly last: number | null;
  /** Messages that hold the words that were asked for. */
  readonly hits: number;
}

export interface PeopleQuery {
  readonly kind: "contact" | "call" | "event";
  readonly states: readonly RecordState[];
  readonly words: string;
  /** Days since 1970, both inclusive. */
  readonly days?: DayRange;
  /** A name or an address. */
  readonly who?: string;
}
type DayRange = { readonly from: number; readonly to: number } | null;
const DAY = 86_400_000;
/** So many digits are a number to call. */
const LEAST_DIGITS = 5;

/** What conversations are narrowed to. */
export interface TalkQuery {
  readonly words: string;
  readonly days?: DayRange;
  readonly who?: string;
}

export type PeopleCounts = Readonly<Record<"conversation" | "contact" | "call" | "event", number>>;
export const NOBODY: PeopleCounts = { conversation: 0, contact: 0, call: 0, event: 0 };

const KINDS = ["conversation", "message", "chat", "contact", "call", "event", "media", "row"] as const satisfies readonly RecordKind[];
const STATES = ["present", "binned", "hidden", "erased", "unclear"] as const satisfies readonly RecordState[];
const SHOWN: readonly RecordKind[] = ["conversation", "contact", "call", "event"];

interface Talk {
  readonly row: number;
  readonly values: ConversationValues;
  readonly store: string;
  readonly medium: number;
  readonly rows: number[];
  erased: number;
  sorted: boolean;
}

/** Moment of an entry in milliseconds, or NaN. */
function momentOf({ kind, values }: FoundRecord): number {
  const { at, start } = values as MessageValues & EventValues;
  const time = kind === "event" ? start : at;
  return time === undefined ? Number.NaN : Date.parse(time);
}

/** All words that an entry can be found by. */
function wordsIn({ kind, values }: FoundRecord): string {
  switch (kind) {
    case "message":
    case "chat": {
      const { text, address, person, subject, attachments } = values as MessageValues;
      return [text, subject, person, address, ...(attachments ?? []).map(({ name }) => name)].filter(Boolean).join("\n");
    }
    case "contact": {
      const { name, phones, emails, organization, note } = values as ContactValues;
      return [
        name,
        organization,
        note,
        ...(phones ?? []).flatMap(({ number }) => [number, number.replace(/\D/g, "")]),
        ...(emails ?? []).map(({ address }) => address),
      ]
        .filter(Boolean)
        .join("\n");
    }
    case "call": {
      const { number, name } = values as CallValues;
      return [name, number, number?.replace(/\D/g, "")].filter(Boolean).join("\n");
    }
    case "event": {
      const { title, place, description } = values as EventValues;
      return [title, place, description].filter(Boolean).join("\n");
    }
    default:
      return "";
  }
}

/** What people mean by rows, of all media of a ticket: counted, looked through and put in order. Entries themselves stay where they are kept. */
export class PeopleIndex {
  readonly #places: EntryPlace[] = [];
  readonly #kinds: number[] = [];
  readonly #states: number[] = [];
  readonly #times: number[] = [];
  readonly #texts: string[] = [];
  readonly #rows = new Map<string, number>();
  readonly #talks = new Map<string, Talk>();
  /** Messages whose conversation was not told of yet. */
  readonly #waiting = new Map<string, number[]>();
  readonly #names = new Map<string, string>();
  readonly #numbers: string[] = [];
  #country: string | null = null;
  readonly #counts = { conversation: 0, contact: 0, call: 0, event: 0 };

  get counts(): PeopleCounts {
    return { ...this.#counts };
  }

  /** Takes in an entry. One that is known already is where it is kept now. */
  put(entry: FoundRecord, place: EntryPlace): void {
    const key = `${place.medium}:${entry.id}`;
    const known = this.#rows.get(key);
    if (known !== undefined) {
      this.#places[known] = place;
      return;
    }
    const row = this.#places.push(place) - 1;
    this.#rows.set(key, row);
    this.#kinds.push(KINDS.indexOf(entry.kind));
    this.#states.push(STATES.indexOf(entry.state));
    this.#times.push(momentOf(entry));
    this.#texts.push(folded(wordsIn(entry)));
    if (SHOWN.includes(entry.kind)) this.#counts[entry.kind as keyof PeopleCounts]++;
    if (entry.kind === "conversation") this.#putTalk(entry, key, row, place.medium);
    else if (entry.kind === "message" || entry.kind === "chat") this.#putMessage(entry, row, place.medium);
    else if (entry.kind === "contact") this.#putNames(entry.values as ContactValues);
  }

  #putTalk({ values, store = "" }: FoundRecord, key: string, row: number, medium: number): void {
    const waiting = this.#waiting.get(key) ?? [];
    this.#waiting.delete(key);
    const talk: Talk = { row, values: values as ConversationValues, store, medium, rows: [], erased: 0, sorted: true };
    this.#talks.set(key, talk);
    for (const message of waiting) this.#add(talk, message);
  }

  #putMessage({ values, database }: FoundRecord, row: number, medium: number): void {
    const { conversation, address, person } = values as MessageValues;
    // A message that is of no conversation stands with those of its sender: an export has nothing else.
    const key = `${medium}:${conversation ?? `${database}~with~${addressKey(address) ?? person ?? "nobody known"}`}`;
    let talk = this.#talks.get(key);
    if (!talk && conversation === undefined) {
      talk = {
        row,
        values: { members: [{ ...(person && { name: person }), ...(address && { address }) }] },
        store: "",
        medium,
        rows: [],
        erased: 0,
        sorted: true,
      };
      this.#talks.set(key, talk);
      this.#counts.conversation++;
    }
    if (talk) this.#add(talk, row);
    else {
      const waiting = this.#waiting.get(key);
      if (waiting) waiting.push(row);
      else this.#waiting.set(key, [row]);
    }
  }

  #add(talk: Talk, row: number): void {
    talk.rows.push(row);
    talk.sorted = false;
    if (this.#states[row] === STATES.indexOf("erased")) talk.erased++;
  }

  #putNames({ name, phones = [] }: ContactValues): void {
    for (const { number } of phones) if (number.startsWith("+")) this.#numbers.push(number);
    if (name) for (const { number } of phones) this.#names.set(number, name);
    this.#byNumber = null;
  }

  #byNumber: ReadonlyMap<string, string> | null = null;
  /** What the address book calls whoever has an address. */
  nameOf(address: string | undefined): string | undefined {
    const names = this.#namesByNumber();
    const key = addressKey(address, this.#country);
    return key === null ? undefined : names.get(key);
  }

  #namesByNumber(): ReadonlyMap<string, string> {
    if (this.#byNumber) return this.#byNumber;
    this.#country = countryOf(this.#numbers.slice(0, 2000));
    this.#byNumber = new Map(
      [...this.#names].flatMap(([number, name]) => {
        const key = addressKey(number, this.#country);
        return key === null ? [] : [[key, name] as const];
      }),
    );
    return this.#byNumber;
  }

  #countryNow(): string | null {
    this.#namesByNumber();
    return this.#country;
  }

  /** Forgets what is kept of a medium. */
  forget(medium: number): void {
    const kept = [...this.#rows].filter(([key]) => key.startsWith(`${medium}:`));
    for (const [key, row] of kept) {
      this.#rows.delete(key);
      const kind = KINDS[this.#kinds[row]];
      if (SHOWN.includes(kind)) this.#counts[kind as keyof PeopleCounts]--;
      this.#states[row] = GONE;
    }
    for (const [key, talk] of [...this.#talks])
      if (talk.medium === medium) {
        if (KINDS[this.#kinds[talk.row]] !== "conversation") this.#counts.conversation--;
        this.#talks.delete(key);
      }
  }

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
  talks({ words, days = null, who = "" }: TalkQuery): TalkView[] {
    const asked = wordsOf(words);
    const passes = this.#passing({ words, days, who });
    const isNarrow = days !== null || who !== "";
    const views: TalkView[] = [];
    for (const [key, talk] of this.#talks) {
      const order = this.#ordered(talk);
      const title = this.#titleOf(talk);
      const members = (talk.values.members ?? []).map((one) => ({
        ...one,
        ...(!one.name && this.nameOf(one.address) && { name: this.nameOf(one.address) }),
      }));
      const called = folded([title, ...members.flatMap(({ name, address }) => [name, address])].join("\n"));
      const isCalled = asked.every((word) => called.includes(word));
      const hits = asked.length === 0 && !isNarrow ? 0 : order.filter(passes).length;
      if (hits === 0 && (isNarrow || (asked.length > 0 && !isCalled))) continue;
      const last = order.length > 0 ? this.#times[order[order.length - 1]] : Number.NaN;
      views.push({
        key,
        medium: talk.medium,
        title,
        group: talk.values.group ?? members.length > 1,
        members,
        store: talk.store,
        messages: order.length,
        erased: talk.erased,
        last: Number.isNaN(last) ? null : last,
        hits,
      });
    }
    return views.sort((a, b) => (b.last ?? -1) - (a.last ?? -1) || b.messages - a.messages);
  }

  /** Messages of a conversation by their moments; those without one first. */
  #ordered(talk: Talk): readonly number[] {
    if (!talk.sorted) {
      talk.rows.sort((a, b) => (this.#times[a] || 0) - (this.#times[b] || 0) || a - b);
      talk.sorted = true;
    }
    return talk.rows;
  }

  /** Where the messages of a conversation are kept, in their order. */
  messages(key: string): EntryPlace[] {
    const talk = this.#talks.get(key);
    return talk ? this.#ordered(talk).map((row) => this.#places[row]) : [];
  }

  /** Places in a conversation, from 0, of messages that hold all words and are of these days. */
  hits(key: string, words: string, days: DayRange = null): number[] {
    const talk = this.#talks.get(key);
    if (!talk || (wordsOf(words).length === 0 && days === null)) return [];
    const passes = this.#passing({ words, days });
    return this.#ordered(talk).flatMap((row, place) => (passes(row) ? [place] : []));
  }

  /** Entries of a kind: contacts by their names, others the latest first. And how many there are in each state, whatever states are asked for. */
  ask({ kind, states, words, days, who }: PeopleQuery): { places: EntryPlace[]; states: Partial<Record<RecordState, number>> } {
    const passes = this.#passing({ days, who, words });
    const wanted = KINDS.indexOf(kind);
    const counts: Partial<Record<RecordState, number>> = {};
    const rows: number[] = [];
    for (let row = 0; row < this.#kinds.length; row++) {
      if (this.#kinds[row] !== wanted || !passes(row)) continue;
      const state = STATES[this.#states[row]];
      counts[state] = (counts[state] ?? 0) + 1;
      if (states.length === 0 || states.includes(state)) rows.push(row);
    }
    if (kind === "contact") rows.sort((a, b) => COLLATOR.compare(this.#texts[a], this.#texts[b]) || a - b);
    else rows.sort((a, b) => (this.#times[b] || 0) - (this.#times[a] || 0) || a - b);
    return { places: rows.map((row) => this.#places[row]), states: counts };
  }

  /** How many of each kind are among keys; others are none of these. */
  kindsOf(keys: readonly string[]): Partial<Record<RecordKind, number>> {
    const counts: Partial<Record<RecordKind, number>> = {};
    for (const key of keys) {
      const row = this.#rows.get(key);
      if (row === undefined) continue;
      const kind = KINDS[this.#kinds[row]];
      counts[kind] = (counts[kind] ?? 0) + 1;
    }
    return counts;
  }

  /** How many entries of some kinds hold all of this. */
  count({ kinds, days, who, words }: { kinds: readonly RecordKind[]; days: DayRange; who: string; words: string }): number {
    const passes = this.#passing({ days, who, words });
    const wanted = new Set(kinds.map((kind) => KINDS.indexOf(kind)));
    let count = 0;
    for (let row = 0; row < this.#kinds.length; row++) if (wanted.has(this.#kinds[row]) && passes(row)) count++;
    return count;
  }

  /** Does a row hold the words, is it of these days, and of or with this person? */
  #passing({ days = null, who = "", words }: { days?: DayRange; who?: string; words: string }): (row: number) => boolean {
    const asked = wordsOf(words);
    const isWith = who.trim() === "" ? null : this.#with(who);
    return (row) => {
      if (this.#states[row] === GONE) return false;
      if (days) {
        const day = Math.floor(this.#times[row] / DAY);
        // What has no day is of none.
        if (!(day >= days.from && day <= days.to)) return false;
      }
      return asked.every((word) => this.#texts[row].includes(word)) && (isWith === null || isWith(row));
    };
  }

  /**
   * Is somebody in a row, or in its conversation? By a number however it is written, by what the address book calls one, and by the words of a name.
   */
  #with(who: string): (row: number) => boolean {
    const name = wordsOf(who);
    const digits = who.replace(/\D/g, "");
    const own = new Set([addressKey(who, this.#countryNow())]);
    for (const [key, called] of this.#namesByNumber()) if (name.every((word) => folded(called).includes(word))) own.add(key);
    const isNamed = (text: string | undefined) => text !== undefined && name.every((word) => folded(text).includes(word));
    const isIn = (address: string | undefined) => address !== undefined && own.has(addressKey(address, this.#country));
    const rows = new Set<number>();
    for (const talk of this.#talks.values()) {
      const members = talk.values.members ?? [];
      if (isNamed(talk.values.title) || members.some((one) => isNamed(one.name) || isIn(one.address)))
        for (const row of talk.rows) rows.add(row);
    }
    const isNumber = digits.length >= LEAST_DIGITS;
    const hasNumbers = isNumber || [...own].some((key) => key !== null && /^\+?\d+$/.test(key));
    return (row) =>
      rows.has(row) ||
      name.every((word) => this.#texts[row].includes(word)) ||
      (hasNumbers && this.#numbersIn(row).some((number) => isIn(number) || (isNumber && number.replace(/\D/g, "").includes(digits))));
  }

  /** Lines of a row that are numbers to call. */
  #numbersIn(row: number): string[] {
    return this.#texts[row].split("\n").filter((line) => line.length < 40 && /^[+(]?[\d\s().\-/]{3,}$/.test(line));
  }

  /** Where entries are kept, by their keys. */
  placesOf(keys: readonly string[]): EntryPlace[] {
    return keys.flatMap((key) => {
      const row = this.#rows.get(key);
      return row === undefined ? [] : [this.#places[row]];
    });
  }
}

/** A row that was forgotten: its number is not used again. */
const GONE = -1;
const COLLATOR = new Intl.Collator();
