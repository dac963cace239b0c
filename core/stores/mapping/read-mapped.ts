import type { AttachmentValues, Direction, MessageValues } from "../../finds/record.ts";
import { type Gathered, isoOf, keyOf, type StoreRow, textOf } from "../gathered.ts";
import { attachment, type Entry, entryOf, onceEach } from "../store.ts";
import { Compiled, type Context, columnAt, keyText, type Read } from "./compiled.ts";
import { packageOf } from "./fingerprint.ts";
import type { MappedAttachment, Mapping } from "./mapping.ts";
import { People } from "./people.ts";
import { itemsOf } from "./pick-attachments.ts";
import { stepped } from "./steps.ts";
import { Talks } from "./talks.ts";
import { WhichTable } from "./which-table.ts";

/** Does a database have the tables and columns of a mapping, and is it, as far as that can be told, of the same app? */
export function fits(gathered: Gathered, { fits, app }: Mapping): boolean {
  const owner = packageOf(gathered.path);
  if (app !== null && owner !== null && app !== owner) return false;
  // Other tables may be empty, or lost: what they would say is then not known.
  const needed = fits.tables.filter(({ as }) => as === "m" || as === "body");
  return needed.every((ref) => {
    const tables = gathered.tables.filter((table) =>
      "pattern" in ref ? new RegExp(ref.pattern, "u").test(table.name) : table.name === ref.name,
    );
    const columns = fits.columns[ref.as] ?? [];
    return tables.some((table) => columns.every((name) => columnAt(table, name) !== null));
  });
}

/** The conversations and messages of a database as a mapping reads them, erased ones too. `store`: what is said of where they are from. */
export function readMapped(gathered: Gathered, mapping: Mapping, store: string): Entry[] {
  return new MappedReader(gathered, mapping, store).entries();
}

class MappedReader {
  readonly #gathered: Gathered;
  readonly #mapping: Mapping;
  readonly #store: string;
  readonly #compiled: Compiled;
  readonly #people: People;
  readonly #talks: Talks;
  readonly #direction: (context: Context) => Direction | undefined;
  readonly #attachments: readonly ((context: Context) => { values: AttachmentValues[]; rows: StoreRow[] })[];
  readonly #text: readonly Read[];
  readonly #textRows: (context: Context) => { row: StoreRow; at: number; steps: Parameters<typeof stepped>[1] }[];

  constructor(gathered: Gathered, mapping: Mapping, store: string) {
    this.#gathered = gathered;
    this.#mapping = mapping;
    this.#store = store;
    this.#compiled = new Compiled(gathered, mapping);
    const own = this.#compiled.own();
    this.#people = new People(this.#compiled, mapping, own);
    this.#talks = new Talks(gathered, this.#compiled, mapping, this.#people, own, store);
    this.#direction = this.#directionBy(own);
    this.#attachments = mapping.attachments.map((one) => this.#attachmentBy(one));
    this.#text = mapping.text.map((value) => this.#compiled.value(value));
    this.#textRows = this.#textPlaces();
  }

  entries(): Entry[] {
    const { at, marks, besides = [] } = this.#mapping;
    const isNone = besides.map((cond) => this.#compiled.cond(cond));
    const time = this.#compiled.time(at);
    const marked = marks.map(({ when, means }) => ({ when: this.#compiled.cond(when), means }));
    const entries: Entry[] = [];
    const unsure = this.#compiled.messages.flatMap(({ table }) =>
      table.rows.filter(({ row }) => row.among !== undefined && row.among.length > 1),
    );
    const parts = unsure.length > 0 ? this.#which(time).partsOf(unsure) : null;
    for (const { table, part } of this.#compiled.messages)
      for (const row of table.rows) {
        const told = parts?.get(row);
        const context: Context = { row, part: told === undefined ? part : told, joined: new Map() };
        if (isNone.some((is) => is(context))) continue;
        const entry = this.#message(context, time(context), new Set(marked.flatMap(({ when, means }) => (when(context) ? [means] : []))));
        if (entry) entries.push(entry);
      }
    entries.push(...this.#drafts());
    const once = onceEach(withEarlier(entries), ({ values }) => {
      const { at: moment, text, direction } = values as MessageValues;
      return moment === undefined ? null : JSON.stringify([moment, text, direction]);
    });
    this.#addressed(once);
    return [...this.#talks.entries(once), ...once];
  }

  #which(time: (context: Context) => number | undefined): WhichTable {
    const key = this.#mapping.sender.key;
    const read = key && this.#compiled.value(key);
    return new WhichTable(this.#compiled.messages, {
      time,
      sender: (context) => keyOf(read?.(context)),
      namesIn: (part) => this.#talks.namesIn(part),
    });
  }

  #message(context: Context, moment: number | undefined, marks: ReadonlySet<string>): Entry | null {
    const { row } = context;
    const found = this.#text.map((read) => read(context));
    const text = found.map(textOf).find((one) => one) ?? (found.some((one) => one !== undefined) ? "" : undefined);
    const at = isoOf(moment);
    if (at === undefined && !text) return null;
    const direction = this.#direction(context);
    const sender = direction === "in" ? this.#people.senderOf(context) : null;
    const conversation = this.#talks.idOf(context, direction, sender);
    const attachments: AttachmentValues[] = [];
    const rows: StoreRow[] = [row];
    for (const [, one] of context.joined) if (one) rows.push(one);
    for (const read of this.#attachments) {
      const some = read(context);
      attachments.push(...some.values);
      rows.push(...some.rows);
    }
    const before = this.#before(context, text);
    const values: MessageValues = {
      conversation,
      at,
      direction,
      address: sender?.address,
      person: sender?.name,
      text,
      attachments,
      ...((marks.has("edited") || before.length > 0) && { edited: true }),
      ...(marks.has("draft") && { draft: true }),
      ...(before.length > 0 && { before }),
    };
    const state = row.isThere ? (marks.has("binned") ? "binned" : marks.has("hidden") ? "hidden" : undefined) : undefined;
    return entryOf(this.#store, "chat", this.#gathered, rows, values, state);
  }

  #directionBy(own: ReadonlySet<string>): (context: Context) => Direction | undefined {
    const { direction, system, sender } = this.#mapping;
    const notices = system.map((cond) => this.#compiled.cond(cond));
    const key = sender.key && this.#compiled.value(sender.key);
    const by = this.#sideBy(direction, own, key);
    return (context) => (notices.some((is) => is(context)) ? "system" : by(context));
  }

  #sideBy(
    direction: Mapping["direction"],
    own: ReadonlySet<string>,
    sender: Read | undefined,
  ): (context: Context) => Direction | undefined {
    const keyed = (read: Read) => (context: Context) => {
      const value = read(context);
      return value === undefined ? undefined : (keyOf(value) ?? "");
    };
    switch (direction.by) {
      case "value": {
        const read = keyed(this.#compiled.value(direction.from));
        const [came, went] = [new Set(direction.in.map(keyText)), new Set(direction.out.map(keyText))];
        return (context) => {
          const value = read(context);
          if (value === undefined) return undefined;
          if (came.has(value)) return "in";
          if (went.has(value)) return "out";
          // A value that nobody saw before: who has a sender came in.
          return sender ? (keyOf(sender(context)) === null ? "out" : "in") : undefined;
        };
      }
      case "sender": {
        const read = keyed(this.#compiled.value(direction.from));
        return (context) => {
          const value = read(context);
          return value === undefined ? undefined : value === "" || own.has(value) ? "out" : "in";
        };
      }
      case "empty": {
        const read = keyed(this.#compiled.value(direction.from));
        const other = direction.empty === "out" ? "in" : "out";
        return (context) => {
          const value = read(context);
          return value === undefined ? undefined : value === "" ? direction.empty : other;
        };
      }
      case "pair": {
        const read = keyed(this.#compiled.value(direction.sender));
        return (context) => {
          const value = read(context);
          return value === undefined ? undefined : own.has(value) ? "out" : "in";
        };
      }
    }
  }

  #attachmentBy(one: MappedAttachment): (context: Context) => { values: AttachmentValues[]; rows: StoreRow[] } {
    const table = one.table === undefined ? null : this.#compiled.named(one.table);
    const of = (value: MappedAttachment["path"]) =>
      value === undefined ? () => undefined : this.#compiled.value(value, table ?? undefined);
    const [path, name, type, content] = [of(one.path), of(one.name), of(one.type), of(one.content)];
    const said = (context: Context): AttachmentValues[] => {
      const [where, called, kind] = [textOf(path(context)), textOf(name(context)), textOf(type(context))];
      const bytes = content(context);
      const isThere = where || called || (bytes instanceof Uint8Array && bytes.length > 0) || (table && kind);
      return isThere ? [attachment(called, kind, where)] : [];
    };
    if (one.each) {
      const each = this.#compiled.value(one.each);
      return (context) => ({
        values: itemsOf(each(context)).flatMap((item) => said({ ...context, item: JSON.stringify(item) })),
        rows: [],
      });
    }
    if (!one.table) return (context) => ({ values: said(context), rows: [] });
    const key = one.on && this.#compiled.value(one.on[0]);
    const column = table && one.on ? columnAt(table, one.on[1]) : null;
    if (!table || !key || column === null) return () => ({ values: [], rows: [] });
    return (context) => {
      const all = table.find(column, key(context));
      const rows = context.row.isThere ? all.filter(({ isThere }) => isThere) : onceOf(all);
      return { values: rows.flatMap((row) => said({ ...context, beside: row })), rows: [...rows] };
    };
  }

  /** Where the text stands, to read what it said before it was changed. */
  #textPlaces() {
    const own = this.#compiled.messages[0]?.table;
    const places = this.#mapping.text.flatMap((value) => {
      if (!("col" in value)) return [];
      const dot = value.col.indexOf(".");
      const [alias, name] = [value.col.slice(0, dot), value.col.slice(dot + 1)];
      const ref = this.#mapping.fits.tables.find(({ as }) => as === alias);
      const table = alias === "m" ? own : ref && "name" in ref ? this.#compiled.named(ref.name) : null;
      const at = table ? columnAt(table, name) : null;
      return at === null ? [] : [{ alias, at, steps: value.as }];
    });
    return (context: Context) =>
      places.flatMap(({ alias, at, steps }) => {
        const row = alias === "m" ? context.row : this.#compiled.joined(alias, context);
        return row ? [{ row, at, steps }] : [];
      });
  }

  #before(context: Context, now: string | undefined): { text: string }[] {
    if (context.row.row.versions.length === 0 && context.joined.size === 0) return [];
    const texts = new Set<string>();
    for (const { row, at, steps } of this.#textRows(context))
      for (const { values } of row.row.versions) {
        const text = at < 0 ? undefined : textOf(stepped(values[at], steps));
        if (text && text !== now) texts.add(text);
      }
    return [...texts].map((text) => ({ text }));
  }

  #drafts(): Entry[] {
    return this.#mapping.drafts.flatMap(({ table: name, text, at, conversation }) => {
      const table = this.#compiled.named(name);
      if (!table) return [];
      const read = this.#compiled.value(text, table);
      const time = at && this.#compiled.time(at, table);
      const keys = conversation.map((value) => this.#compiled.value(value, table));
      return table.rows.flatMap((row): Entry[] => {
        const context: Context = { row, part: null, joined: new Map(), beside: row };
        const said = textOf(read(context));
        if (!said) return [];
        const values: MessageValues = {
          conversation: this.#talks.idOfKeys(
            keys.map((one) => one(context)),
            row.isThere,
            "out",
            null,
          ),
          at: isoOf(time?.(context)),
          direction: "out",
          text: said,
          attachments: [],
          draft: true,
        };
        return [entryOf(this.#store, "chat", this.#gathered, [row], values)];
      });
    });
  }

  /** Who a message is from or to, where only its conversation says so: the one other who is in it. */
  #addressed(entries: readonly Entry[]): void {
    for (const { values } of entries) {
      const message = values as MessageValues;
      if (message.conversation === undefined || message.direction === "system" || message.address || message.person) continue;
      const other = this.#talks.onlyOther(message.conversation);
      if (!other) continue;
      if (other.address) message.address = other.address;
      if (other.name) message.person = other.name;
    }
  }
}

/**
 * A message that was changed leaves its older row behind, often without its id: at the same moment, in the same conversation, from the same side. It
 * is what the message said before, and no message of its own.
 */
function withEarlier(entries: readonly Entry[]): Entry[] {
  const keyOfOne = ({ values }: Entry): string | null => {
    const { at, direction, conversation } = values as MessageValues;
    return at === undefined || conversation === undefined ? null : JSON.stringify([at, direction, conversation]);
  };
  const there = new Map<string, Entry>();
  for (const entry of entries) {
    const key = entry.state === "erased" ? null : keyOfOne(entry);
    if (key !== null) there.set(key, entry);
  }
  return entries.filter((entry) => {
    const key = entry.state === "erased" ? keyOfOne(entry) : null;
    const now = key === null ? undefined : there.get(key);
    if (!now) return true;
    const [before, after] = [entry.values as MessageValues, now.values as MessageValues];
    if (!before.text) return (before.attachments ?? []).length > 0;
    if (before.text === after.text || !isVersion(before, after)) return before.text !== after.text;
    after.edited = true;
    if (!after.before?.some(({ text }) => text === before.text)) after.before = [...(after.before ?? []), { text: before.text }];
    return false;
  });
}

/** Times to the second may be those of two messages: then a version begins or ends as the message does. */
function isVersion({ text: before = "", at = "" }: MessageValues, { text: after = "" }: MessageValues): boolean {
  if (!at.endsWith(".000Z")) return true;
  const most = Math.min(before.length, after.length);
  let head = 0;
  while (head < most && before[head] === after[head]) head++;
  let tail = 0;
  while (tail < most && before[before.length - 1 - tail] === after[after.length - 1 - tail]) tail++;
  return Math.max(head, tail) >= most * 0.5;
}

/** Copies of one row are one. */
function onceOf(rows: readonly StoreRow[]): StoreRow[] {
  const seen = new Set<string>();
  return rows.filter((row) => {
    const key = row.row.rowid === null ? JSON.stringify(row.values.map(keyOf)) : `#${row.row.rowid}`;
    return !seen.has(key) && seen.add(key);
  });
}
