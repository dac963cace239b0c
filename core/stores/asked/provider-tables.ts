import type { ByteSource } from "../../bytes/source.ts";
import type { Column, Table } from "../../sqlite/format/schema.ts";
import type { Values } from "../../sqlite/format/values.ts";
import type { Row } from "../../sqlite/rows/row.ts";
import { Gathered } from "../gathered.ts";
import { type AnswerHead, type AnswerRow, headOf, NOT_TOLD, rowsOfAnswer } from "./answer-file.ts";

/** Which table of a provider's database stands behind an address, and which of its columns is the row id. */
interface Behind {
  readonly address: RegExp;
  readonly table: string;
  readonly id?: string;
  /** Columns that are called otherwise there. */
  readonly called?: Readonly<Record<string, string>>;
}

/** Addresses of the system's own providers (Android Open Source Project) and the tables that they show. */
const BEHIND: readonly Behind[] = [
  { address: /^content:\/\/com\.android\.contacts\/data$/, table: "data", id: "_id" },
  {
    address: /^content:\/\/com\.android\.contacts\/raw_contact_entities$/,
    table: "data",
    id: "data_id",
    called: { _id: "raw_contact_id", data_id: "_id" },
  },
  { address: /^content:\/\/com\.android\.contacts\/raw_contacts$/, table: "raw_contacts", id: "_id" },
  { address: /^content:\/\/com\.android\.contacts\/contacts$/, table: "contacts", id: "_id" },
  { address: /^content:\/\/com\.android\.contacts\/groups$/, table: "groups", id: "_id" },
  { address: /^content:\/\/com\.android\.contacts\/settings$/, table: "settings" },
  { address: /^content:\/\/com\.android\.contacts\/deleted_contacts$/, table: "deleted_contacts", id: "contact_id" },
  { address: /^content:\/\/sms$/, table: "sms", id: "_id" },
  { address: /^content:\/\/mms-sms\/conversations\?simple=true$/, table: "threads", id: "_id" },
  { address: /^content:\/\/mms-sms\/canonical-addresses$/, table: "canonical_addresses", id: "_id" },
  { address: /^content:\/\/mms$/, table: "pdu", id: "_id" },
  { address: /^content:\/\/mms\/part$/, table: "part", id: "_id" },
  // Asked for each message by itself (content://mms/<id>/addr), and kept together.
  { address: /^content:\/\/mms\/addr$/, table: "addr", id: "_id" },
  { address: /^content:\/\/call_log\/calls$/, table: "calls", id: "_id" },
  { address: /^content:\/\/com\.android\.calendar\/events$/, table: "Events", id: "_id" },
  { address: /^content:\/\/com\.android\.calendar\/calendars$/, table: "Calendars", id: "_id" },
  { address: /^content:\/\/com\.android\.calendar\/attendees$/, table: "Attendees", id: "_id" },
  { address: /^content:\/\/com\.android\.calendar\/reminders$/, table: "Reminders", id: "_id" },
  { address: /^content:\/\/media\/external\/file$/, table: "files", id: "_id" },
];

/** Columns that a store needs and an answer may lack. */
const NEEDED: Readonly<Record<string, readonly string[]>> = {
  data: ["mimetype_id"],
  raw_contacts: ["display_name", "account_id"],
  Events: ["calendar_id"],
  files: ["_display_name"],
};

/** A column of which nothing is known but its name. */
const column = (name: string): Column => ({ name, affinity: "blob", notNull: false, preset: null, virtual: false });
const tableOf = (name: string, names: readonly string[]): Table => ({
  name,
  columns: names.map(column),
  stored: names.map((_, index) => index),
  rowidColumn: -1,
  withoutRowid: false,
});

/** A row as the phone told it: there, and all that is to be known of it. `at`: byte offset in its answer. */
const rowOf = (table: Table, rowid: number | null, values: Values, at: number): Row => ({
  table,
  state: "present",
  condition: "whole",
  rowid,
  values,
  evidence: [{ what: "the phone's own provider", file: "main", page: 0, at }],
  versions: [],
});

const idOf = (value: unknown): number | null => (typeof value === "string" && /^\d{1,15}$/.test(value) ? Number(value) : null);

/** Names that are given numbers as they come: kinds of data, accounts. */
class Numbered {
  readonly #numbers = new Map<string, number>();
  numberOf(name: string): number {
    const number = this.#numbers.get(name) ?? this.#numbers.size + 1;
    this.#numbers.set(name, number);
    return number;
  }
  get all(): [string, number][] {
    return [...this.#numbers];
  }
}

/** One answer as it lies in a copy. */
export interface Answer {
  readonly name: string;
  readonly source: ByteSource;
}
interface Known extends Answer, Behind {
  readonly head: AnswerHead;
}

/**
 * What the system's own providers told, as the tables of their databases, so that the stores read it as they read those. `broken` hears of an answer
 * that does not read on.
 */
export async function gatheredFromAnswers(answers: readonly Answer[], broken: (name: string, what: string) => void): Promise<Gathered> {
  const known: Known[] = [];
  for (const answer of answers) {
    const head = await headOf(answer.source);
    const behind = head && BEHIND.find(({ address }) => address.test(head.uri));
    if (head?.uri === NOT_TOLD) {
      for await (const rows of rowsOfAnswer(answer.source, head, () => {}))
        for (const { values } of rows) broken("the phone", String(values[0]));
    } else if (behind) known.push({ ...answer, ...behind, head });
    else broken(answer.name, "it is no answer of a provider that is known");
  }
  const gathered = new Gathered(null, null, "asked");
  const making = new TableMaker(known);
  for (const one of known)
    for await (const rows of rowsOfAnswer(one.source, one.head, (what) => broken(one.name, what)))
      if (!gathered.take(making.rowsOf(one, rows))) {
        broken(one.name, "it holds more rows than are read");
        break;
      }
  gathered.take(making.rest());
  return gathered;
}

/** Turns answers into rows of tables, and works out what the providers' own databases keep apart. */
class TableMaker {
  readonly #tables = new Map<string, Table>();
  readonly #mimetypes = new Numbered();
  readonly #accounts = new Numbered();
  readonly #hasRaw: boolean;
  readonly #hasShown: boolean;
  /** Where no list of contacts was asked for: what the rows of data say of them. */
  readonly #contacts = new Map<string, { contact: unknown; name: unknown; account: unknown; shown: unknown; at: number }>();

  constructor(known: readonly Known[]) {
    for (const { table } of known) {
      const names = known
        .filter((one) => one.table === table)
        .flatMap(({ head, called }) => head.columns.map((name) => called?.[name] ?? name));
      this.#tables.set(table, tableOf(table, [...new Set([...names, ...(NEEDED[table] ?? [])])]));
    }
    this.#hasRaw = this.#tables.has("raw_contacts");
    this.#hasShown = this.#tables.has("contacts");
  }

  rowsOf({ table: name, id, called, head }: Known, rows: readonly AnswerRow[]): Row[] {
    const table = this.#tables.get(name) as Table;
    const places = head.columns.map((one) => table.columns.findIndex((own) => own.name === (called?.[one] ?? one)));
    const idAt = id === undefined ? -1 : head.columns.indexOf(id);
    return rows.map(({ values: told, at }) => {
      const values: Values = table.columns.map(() => undefined);
      for (const [index, place] of places.entries()) values[place] = told[index];
      const get = (one: string) => values[table.columns.findIndex((own) => own.name === one)];
      const set = (one: string, value: Values[number]) => {
        values[table.columns.findIndex((own) => own.name === one)] = value;
      };
      if (name === "data") {
        set("mimetype_id", this.#mimetypes.numberOf(String(get("mimetype") ?? "")));
        this.#noteContact(get, at);
      } else if (name === "raw_contacts") set("account_id", this.#accountOf(get("account_name"), get("account_type")));
      else if (name === "files" && !get("_display_name")) set("_display_name", String(get("_data") ?? "").replace(/^.*\//, ""));
      return rowOf(table, idOf(told[idAt]), values, at);
    });
  }

  #accountOf(name: unknown, type: unknown): number | null {
    return name || type ? this.#accounts.numberOf(String(name || type)) : null;
  }

  #noteContact(get: (column: string) => unknown, at: number): void {
    const raw = get("raw_contact_id");
    if ((this.#hasRaw && this.#hasShown) || typeof raw !== "string" || this.#contacts.has(raw)) return;
    const [contact, name, account, shown] = ["contact_id", "display_name", "account_type", "in_visible_group"].map(get);
    this.#contacts.set(raw, { contact: contact ?? raw, name, account, shown, at });
  }

  /** What no answer tells by itself: the kinds of data, the accounts, and the contacts of an answer of before, which told of their data alone. */
  rest(): Row[] {
    const mimetypes = tableOf("mimetypes", ["_id", "mimetype"]);
    const accounts = tableOf("accounts", ["_id", "account_name"]);
    const rows = this.#mimetypes.all.map(([type, number]) => rowOf(mimetypes, number, [number, type], 0));
    const raw = tableOf("raw_contacts", ["_id", "contact_id", "display_name", "account_id", "deleted"]);
    const shown = tableOf("contacts", ["_id", "in_visible_group"]);
    for (const [id, { contact, name, account, shown: isShown, at }] of this.#contacts) {
      const [own, text] = [contact, name].map((one) => (typeof one === "string" ? one : null));
      if (!this.#hasRaw) rows.push(rowOf(raw, idOf(id), [id, own, text, this.#accountOf(account, null), null], at));
      if (!this.#hasShown && typeof isShown === "string") rows.push(rowOf(shown, idOf(own), [own, isShown], at));
    }
    return [...rows, ...this.#accounts.all.map(([name, number]) => rowOf(accounts, number, [number, name], 0))];
  }
}
