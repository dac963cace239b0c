import { photoOf } from "../filetypes/small-picture.ts";
import type { ContactChange, ContactValues, RecordState } from "../finds/record.ts";
import { ContactHistory, type Saying } from "./contact-history.ts";
import { Showing } from "./contacts-shown.ts";
import { type Gathered, keyOf, ROWID, type StoreRow, type StoreTable, textOf } from "./gathered.ts";
import { type Entry, entryOf, known, madeEntry, type Store } from "./store.ts";

/**
 * Kinds of rows of `data` (ContactsContract.CommonDataKinds), by the end of their MIME type; and the number that each has in an address book that
 * the provider made new (ContactsDatabaseHelper; from memory), for one whose own list is lost.
 */
const KINDS = {
  email: ["/email_v2", 1],
  nickname: ["/nickname", 3],
  organization: ["/organization", 4],
  phone: ["/phone_v2", 5],
  name: ["/name", 7],
  address: ["/postal-address_v2", 8],
  photo: ["/photo", 10],
  group: ["/group_membership", 11],
  note: ["/note", 12],
  website: ["/website", 13],
  event: ["/contact_event", 14],
} as const satisfies Record<string, readonly [string, number]>;
type Kind = keyof typeof KINDS;

/** CommonDataKinds.Phone, Email and StructuredPostal: TYPE. */
const PHONE_TYPES: Record<string, string> = {
  1: "home",
  2: "mobile",
  3: "work",
  4: "work fax",
  5: "home fax",
  6: "pager",
  7: "other",
  12: "main",
};
const MAIL_TYPES: Record<string, string> = { 1: "home", 2: "work", 3: "other", 4: "mobile" };
/** CommonDataKinds.Event.TYPE_BIRTHDAY */
const BIRTHDAY = "3";

/** The address book (Android Open Source Project, ContactsContract: RawContacts, Data, Groups, Settings; and ContactsDatabaseHelper). */
export const CONTACTS: Store = {
  name: "contacts",
  read(gathered) {
    const raw = gathered.table("raw_contacts", "display_name");
    const data = gathered.table("data", "raw_contact_id", "mimetype_id", "data1");
    return raw || data ? new AddressBook(gathered, raw, data).entries() : [];
  },
};

class AddressBook {
  readonly #gathered: Gathered;
  readonly #raw: StoreTable | null;
  readonly #data: StoreTable | null;
  readonly #kinds: ReadonlyMap<string, Kind>;
  readonly #shown: Showing;
  readonly #history: ContactHistory;
  readonly #saying: Saying;

  constructor(gathered: Gathered, raw: StoreTable | null, data: StoreTable | null) {
    this.#gathered = gathered;
    this.#raw = raw;
    this.#data = data;
    this.#kinds = kindsOf(gathered);
    this.#shown = new Showing(gathered);
    this.#history = new ContactHistory(gathered);
    this.#saying = data ? this.#sayingOf(data) : () => null;
  }

  entries(): Entry[] {
    const entries: Entry[] = [];
    const told = new Set<string>();
    const nameless: StoreRow[] = [];
    const add = (entry: Entry | null) => entry && entries.push(entry);
    const raw = this.#raw;
    for (const row of raw?.rows ?? []) {
      const key = keyOf(row.row.rowid ?? undefined);
      if (key === null) {
        nameless.push(row);
        continue;
      }
      // Of one id there is one contact: the row that is there, or the best copy of what was erased.
      if (told.has(key) || raw?.first(ROWID, row.row.rowid ?? undefined) !== row) continue;
      told.add(key);
      add(this.#contact(row, this.#parts(key, row.isThere)));
    }
    const left = this.#orphans(told);
    // A contact whose own id is lost is known by its name.
    for (const row of nameless) {
      const name = raw?.text(row, "display_name");
      const same = name ? left.filter((one) => one.name === name) : [];
      if (same.length === 1) {
        left.splice(left.indexOf(same[0]), 1);
        add(this.#contact(row, same[0].parts));
      } else if (name && !entries.some((entry) => (entry.values as ContactValues).name === name)) add(this.#contact(row, []));
    }
    for (const { key, parts } of left) {
      const values = this.#values(undefined, parts);
      // A single part without a name is a number that says nothing of whose it is: it is told as it stands.
      if (!values.name && !values.phones?.length && !values.emails?.length) continue;
      const made = madeEntry(CONTACTS.name, "contact", this.#gathered, key, "erased", values);
      entries.push({ ...made, condition: "damaged", rows: this.#gathered.idsOf(parts), evidence: parts[0].evidence });
    }
    return entries;
  }

  /** Rows of data of a contact. Of one that is there: what is there. */
  #parts(key: string, isThere: boolean): StoreRow[] {
    const data = this.#data;
    if (!data) return [];
    const rows = data.find("raw_contact_id", key).filter((row) => row.isThere === isThere || !isThere);
    return isThere ? rows : eachOnce(data, rows);
  }

  /** What is left of contacts whose own row is gone. */
  #orphans(told: ReadonlySet<string>): { key: string; name: string | undefined; parts: StoreRow[] }[] {
    const data = this.#data;
    if (!data) return [];
    return Array.from(data.by(data.column("raw_contact_id")), ([key, rows]) => ({ key, parts: eachOnce(data, rows) }))
      .filter(({ key }) => !told.has(key))
      .map(({ key, parts }) => ({ key, parts, name: this.#values(undefined, parts).name }));
  }

  #contact(row: StoreRow, parts: readonly StoreRow[]): Entry | null {
    const values = this.#values(row, parts);
    // A scrap that names nobody and has no number tells of nobody.
    if (!row.isThere && !values.name && !values.phones?.length && !values.emails?.length) return null;
    Object.assign(values, this.#past(row));
    let state: RecordState | undefined;
    if (row.isThere) {
      const isBinned = this.#raw?.number(row, "deleted") === 1;
      const hiddenBy = isBinned ? null : this.#shown.hiddenBy(this.#raw as StoreTable, row, this.#groups(parts));
      if (hiddenBy) values.hiddenBy = hiddenBy;
      state = isBinned ? "binned" : hiddenBy ? "hidden" : undefined;
    }
    return entryOf(CONTACTS.name, "contact", this.#gathered, [row, ...parts], values, state);
  }

  /** What the contact said before, and when it was changed and erased. */
  #past(row: StoreRow): Pick<ContactValues, "erasedAt" | "changedAt" | "history"> {
    const contact = keyOf(this.#raw?.get(row, "contact_id"));
    const isGone = !row.isThere || this.#raw?.number(row, "deleted") === 1;
    const rows = this.#data?.find("raw_contact_id", row.row.rowid ?? undefined) ?? [];
    const changes = this.#history.changes(contact, rows, this.#saying);
    // Of an erased contact all parts are gone: what each said last stands on its card.
    const history = row.isThere ? changes : changes.filter(({ became }) => became !== undefined);
    return known({
      erasedAt: isGone ? this.#history.erasedAt(contact) : undefined,
      changedAt: row.isThere ? this.#history.changedAt(contact) : undefined,
      history: nonEmpty(history),
    });
  }

  /** What a row of data says, by its kind. */
  #sayingOf(data: StoreTable): Saying {
    const kindAt = data.column("mimetype_id");
    const columns = Object.entries(TOLD).map(([kind, [field, names]]) => ({
      kind,
      field,
      columns: names.map((name) => data.column(name)),
    }));
    return (values) => {
      const kind = this.#kinds.get(textOf(values[kindAt]) ?? "");
      const told = columns.find((one) => one.kind === kind);
      const texts = told?.columns.flatMap((column) => textOf(values[column]) ?? []).filter(Boolean) ?? [];
      return told && texts.length > 0 ? { field: told.field, text: texts.join(told.field === "name" ? " " : ", ") } : null;
    };
  }

  #kindOf(row: StoreRow): Kind | undefined {
    return this.#kinds.get(this.#data?.text(row, "mimetype_id") ?? "");
  }

  /** CommonDataKinds.Photo.PHOTO: the thumbnail itself. The large picture lies in a file of its own. */
  #photoIn(part: StoreRow): string | undefined {
    const bytes = this.#data?.get(part, "data15");
    return bytes instanceof Uint8Array ? photoOf(bytes) : undefined;
  }

  #groups(parts: readonly StoreRow[]): string[] {
    return parts.flatMap((row) => (this.#kindOf(row) === "group" ? (this.#data?.text(row, "data1") ?? []) : []));
  }

  #values(row: StoreRow | undefined, parts: readonly StoreRow[]): ContactValues {
    const of = (kind: Kind) => parts.filter((part) => this.#kindOf(part) === kind);
    const text = (part: StoreRow | undefined, column: string) => (part && this.#data?.text(part, column)) || undefined;
    const [name] = of("name");
    const [organization] = of("organization");
    const named = text(name, "data1") ?? ([text(name, "data2"), text(name, "data3")].filter(Boolean).join(" ") || undefined);
    const own = row && textOf(this.#raw?.get(row, "display_name"));
    const typed = (part: StoreRow, types: Record<string, string>) => text(part, "data3") ?? types[text(part, "data2") ?? ""];
    const birthday = of("event").find((part) => text(part, "data2") === BIRTHDAY);
    return known({
      name: named ?? own ?? undefined,
      given: text(name, "data2"),
      family: text(name, "data3"),
      phones: of("phone").flatMap((part) => {
        const number = text(part, "data1") ?? text(part, "data4");
        return number ? [known({ number, type: typed(part, PHONE_TYPES) })] : [];
      }),
      emails: of("email").flatMap((part) => {
        const address = text(part, "data1");
        return address ? [known({ address, type: typed(part, MAIL_TYPES) })] : [];
      }),
      addresses: of("address").map((part) =>
        known({
          street: text(part, "data4") ?? text(part, "data1"),
          city: text(part, "data7"),
          region: text(part, "data8"),
          postcode: text(part, "data9"),
          country: text(part, "data10"),
        }),
      ),
      organization: text(organization, "data1"),
      title: text(organization, "data4"),
      note: text(of("note")[0], "data1"),
      nickname: text(of("nickname")[0], "data1"),
      websites: nonEmpty(of("website").flatMap((part) => text(part, "data1") ?? [])),
      birthday: text(birthday, "data1"),
      photo: of("photo").flatMap((part) => this.#photoIn(part) ?? [])[0],
      together:
        row && keyOf(this.#raw?.get(row, "contact_id"))
          ? `${this.#gathered.prefix}~${keyOf(this.#raw?.get(row, "contact_id"))}`
          : undefined,
    });
  }
}

/** What of a card is told of its past, and the columns of `data` that say it (CommonDataKinds). */
const TOLD: Partial<Record<Kind, readonly [ContactChange["field"], readonly string[]]>> = {
  name: ["name", ["data1"]],
  phone: ["number", ["data1"]],
  email: ["mail", ["data1"]],
  address: ["address", ["data4", "data9", "data7", "data8", "data10"]],
  organization: ["works at", ["data1", "data4"]],
  nickname: ["called", ["data1"]],
  event: ["birthday", ["data1"]],
  website: ["page", ["data1"]],
  note: ["note", ["data1"]],
};

/** Columns of `data` that say something of the contact (ContactsContract.DataColumns). */
const SAYING = ["mimetype_id", ...Array.from({ length: 15 }, (_, index) => `data${index + 1}`)];

const nonEmpty = <T>(list: T[]): T[] | undefined => (list.length > 0 ? list : undefined);

/** Copies of one row, in older pages and logs, are one; so is a copy whose own id is lost: by what it says, not by its counters. */
function eachOnce(data: StoreTable, rows: readonly StoreRow[]): StoreRow[] {
  const seen = new Set<string>();
  const said = (row: StoreRow) => JSON.stringify(SAYING.map((name) => keyOf(data.get(row, name))));
  const known = new Set(rows.flatMap((row) => (row.row.rowid === null ? [] : [said(row)])));
  return rows.filter((row) => {
    const { rowid } = row.row;
    if (rowid === null && known.has(said(row))) return false;
    const key = rowid === null ? said(row) : `#${rowid}`;
    return !seen.has(key) && seen.add(key);
  });
}

/** What each number of a kind of data means: by the database's own list, or by the numbers of a new one. */
function kindsOf(gathered: Gathered): ReadonlyMap<string, Kind> {
  const kinds = new Map<string, Kind>();
  const list = gathered.table("mimetypes", "mimetype");
  for (const row of list?.rows ?? []) {
    const type = list?.text(row, "mimetype") ?? "";
    const number = keyOf(row.row.rowid ?? undefined);
    const kind = (Object.keys(KINDS) as Kind[]).find((one) => type.endsWith(KINDS[one][0]));
    if (kind && number !== null && !kinds.has(number)) kinds.set(number, kind);
  }
  if (kinds.size > 0) return kinds;
  return new Map((Object.keys(KINDS) as Kind[]).map((kind) => [String(KINDS[kind][1]), kind]));
}
