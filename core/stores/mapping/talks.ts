import type { ConversationValues, Direction } from "../../finds/record.ts";
import type { Value } from "../../sqlite/format/record.ts";
import { type Gathered, keyOf, type StoreRow, storedAt, textOf } from "../gathered.ts";
import { type Entry, known, madeEntry } from "../store.ts";
import { type Compiled, type Context, columnAt, keyText, type Read } from "./compiled.ts";
import { isAddress } from "./looks.ts";
import type { Mapping } from "./mapping.ts";
import { type People, type Person, personBeside } from "./people.ts";

/** A conversation that messages were met of. */
interface Talk {
  readonly id: string;
  /** What the database knows it by, the first of its keys as it stands. */
  readonly keys: readonly (Value | undefined)[];
  readonly name: string;
  /** Who wrote in it, by what they are known by. */
  readonly senders: Map<string, Person>;
  isThere: boolean;
}

/** What conversations there are, what they are called and who is in them. */
export class Talks {
  readonly #compiled: Compiled;
  readonly #mapping: Mapping;
  readonly #people: People;
  readonly #own: ReadonlySet<string>;
  readonly #gathered: Gathered;
  readonly #store: string;
  readonly #talks = new Map<string, Talk>();
  readonly #keys: (context: Context) => (Value | undefined)[];
  readonly #values = new Map<string, ConversationValues>();

  constructor(gathered: Gathered, compiled: Compiled, mapping: Mapping, people: People, own: ReadonlySet<string>, store: string) {
    this.#gathered = gathered;
    this.#compiled = compiled;
    this.#mapping = mapping;
    this.#people = people;
    this.#own = own;
    this.#store = store;
    this.#keys = this.#keyedBy(mapping.conversation);
  }

  #keyedBy(conversation: Mapping["conversation"]): (context: Context) => (Value | undefined)[] {
    if (conversation.by === "columns") {
      const reads: Read[] = conversation.from.map((value) => this.#compiled.value(value));
      return (context) => reads.map((read) => read(context));
    }
    const [sender, recipient] = [this.#compiled.value(conversation.sender), this.#compiled.value(conversation.recipient)];
    return (context) => {
      const to = recipient(context);
      const key = keyOf(to);
      return [key !== null && !this.#own.has(key) ? to : sender(context)];
    };
  }

  /** The id of a message's conversation. Undefined: nothing says which. */
  idOf(context: Context, direction: Direction | undefined, sender: Person | null): string | undefined {
    return this.idOfKeys(this.#keys(context), context.row.isThere, direction, sender);
  }

  idOfKeys(values: (Value | undefined)[], isThere: boolean, direction: Direction | undefined, sender: Person | null): string | undefined {
    const keys = values.map(keyOf);
    if (keys.length === 0 || keys.some((key) => key === null)) return undefined;
    const name = keys.length === 1 ? String(keys[0]) : JSON.stringify(keys);
    let talk = this.#talks.get(name);
    if (!talk) {
      talk = {
        id: `${this.#gathered.prefix}~talk~${name.slice(0, 200)}`,
        keys: values,
        name,
        senders: new Map(),
        isThere: false,
      };
      this.#talks.set(name, talk);
    }
    if (isThere) talk.isThere = true;
    const who = sender && (sender.key ?? sender.address ?? sender.name);
    if (direction === "in" && sender && who) talk.senders.set(who, sender);
    return talk.id;
  }

  /** Who the database says is in the conversation of a table of its own, by all that they are known by. */
  namesIn(part: string): ReadonlySet<string> {
    const talk: Talk = { id: "", keys: [part], name: part, senders: new Map(), isThere: true };
    return new Set(
      this.#listed(talk).flatMap(({ key, name, address }) => [key, name, address].filter((one): one is string => Boolean(one))),
    );
  }

  /** The one other who is in a conversation. Null: several, or nobody known. */
  onlyOther(id: string): Person | null {
    const values = this.#byId(id);
    const members = values?.members ?? [];
    return members.length === 1 && !values?.group ? { key: null, ...members[0] } : null;
  }

  #byId(id: string): ConversationValues | undefined {
    if (this.#values.size === 0) for (const talk of this.#talks.values()) this.#values.set(talk.id, this.#valuesOf(talk));
    return this.#values.get(id);
  }

  entries(messages: readonly Entry[]): Entry[] {
    const used = new Set(messages.flatMap(({ values }) => ("conversation" in values && values.conversation) || []));
    return [...this.#talks.values()]
      .filter(({ id }) => used.has(id))
      .map((talk) => {
        const row = this.#row(talk);
        const state = row ? (row.isThere ? "present" : "erased") : talk.isThere ? "present" : "erased";
        const values = this.#byId(talk.id) ?? {};
        const made = madeEntry(this.#store, "conversation", this.#gathered, talk.name, state, values);
        return { ...made, id: talk.id, rows: row ? [row.id] : [], evidence: row?.evidence ?? [] };
      });
  }

  #row(talk: Talk): StoreRow | null {
    const { talk: mapped } = this.#mapping;
    const table = mapped ? this.#compiled.named(mapped.table) : null;
    const column = table && mapped ? columnAt(table, mapped.key[0]) : null;
    return table && column !== null ? (table.first(column, talk.keys[0]) ?? null) : null;
  }

  #valuesOf(talk: Talk): ConversationValues {
    const { talk: mapped } = this.#mapping;
    const row = this.#row(talk);
    const table = mapped ? this.#compiled.named(mapped.table) : null;
    const title = row && table && mapped?.title ? textOf(storedAt(row, columnAt(table, mapped.title) ?? -1)) || undefined : undefined;
    const said =
      row && table && mapped?.group
        ? mapped.group.values.map(keyText).includes(keyOf(storedAt(row, columnAt(table, mapped.group.column) ?? -1)) ?? "")
        : undefined;
    const members = this.#members(talk, said === true);
    return known({ title, members: members.map(({ name, address }) => known({ name, address })), group: said ?? members.length > 1 });
  }

  #members(talk: Talk, isGroup: boolean): Person[] {
    const listed = this.#listed(talk);
    if (listed.length > 0) return listed;
    const [key] = talk.keys;
    const other = this.#people.byKey(key);
    const [writer] = talk.senders.values();
    // Numbers of conversations are numbers of people too, by chance: who writes there is who it is with.
    const isChance = writer !== undefined && writer.key !== null && writer.key !== other?.key;
    if (other && !isGroup && talk.senders.size <= 1 && !isChance) return [other];
    if (talk.senders.size > 0) return [...talk.senders.values()].filter((one) => !this.#people.isOwn(one));
    const name = keyOf(key);
    return name !== null && !isGroup && isAddress(name) && typeof key === "string" ? [{ key: name, address: name }] : [];
  }

  #listed(talk: Talk): Person[] {
    const { members } = this.#mapping;
    const table = members ? this.#compiled.named(members.table) : null;
    const column = table && members ? columnAt(table, members.key) : null;
    if (!table || !members || column === null) return [];
    const all = table.find(column, talk.keys[0]);
    // Who has left is not in it any more, but for a conversation that is itself gone.
    const rows = all.some(({ isThere }) => isThere) ? all.filter(({ isThere }) => isThere) : all;
    const seen = new Set<string>();
    return rows.flatMap((row) => {
      const person = members.person === undefined ? null : (columnAt(table, members.person) ?? null);
      const value = person === null ? undefined : storedAt(row, person);
      const key = keyOf(value);
      const beside = personBeside(row, table, members.address, members.name, key);
      const one =
        (person === null ? null : this.#people.byKey(value)) ??
        (beside.address || beside.name ? beside : key === null ? null : { key, ...(isAddress(key) && { address: key }) });
      if (!one || this.#people.isOwn(one) || (key !== null && this.#own.has(key))) return [];
      const name = JSON.stringify([one.key, one.address, one.name]);
      if (seen.has(name)) return [];
      seen.add(name);
      return [one];
    });
  }
}
