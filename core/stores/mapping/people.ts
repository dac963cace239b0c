import type { Value } from "../../sqlite/format/record.ts";
import { keyOf, type StoreRow, type StoreTable, storedAt, textOf } from "../gathered.ts";
import { type Compiled, type Context, columnAt, type Read } from "./compiled.ts";
import { isAddress } from "./looks.ts";
import type { Mapping } from "./mapping.ts";

export interface Person {
  /** What they are known by in the database. */
  readonly key: string | null;
  readonly name?: string;
  readonly address?: string;
}

const columnsOf = (table: StoreTable, names: readonly string[]): number[] => names.flatMap((name) => columnAt(table, name) ?? []);
const said = (row: StoreRow, columns: readonly number[]): string | undefined => {
  for (const at of columns) {
    const text = textOf(storedAt(row, at));
    if (text) return text;
  }
  return undefined;
};

/** Who people are, by the keys that a mapping's database knows them by. */
export class People {
  readonly #table: StoreTable | null;
  readonly #key: number | null;
  readonly #names: readonly number[];
  readonly #addresses: readonly number[];
  readonly #own: ReadonlySet<string>;
  readonly #senderKey: Read | null;
  readonly #senderAddress: readonly Read[];
  readonly #senderName: readonly Read[];

  constructor(compiled: Compiled, { people, sender }: Mapping, own: ReadonlySet<string>) {
    this.#table = people ? compiled.named(people.table) : null;
    this.#key = this.#table && people ? columnAt(this.#table, people.key) : null;
    this.#names = this.#table && people ? columnsOf(this.#table, people.name) : [];
    this.#addresses = this.#table && people ? columnsOf(this.#table, people.address) : [];
    this.#own = own;
    this.#senderKey = sender.key ? compiled.value(sender.key) : null;
    this.#senderAddress = sender.address.map((value) => compiled.value(value));
    this.#senderName = sender.name.map((value) => compiled.value(value));
  }

  /** Whoever a key names. Null: nobody is known by it. */
  byKey(value: Value | undefined): Person | null {
    const key = keyOf(value);
    if (key === null || !this.#table || this.#key === null) return null;
    const row = this.#table.find(this.#key, value)[0];
    return row ? this.#person(row, key) : null;
  }

  #person(row: StoreRow, key: string | null): Person {
    const name = said(row, this.#names);
    // A key that one can be reached by is an address too.
    const address = said(row, this.#addresses) ?? (key !== null && isAddress(key) ? key : undefined);
    return { key, ...(name && { name }), ...(address && { address }) };
  }

  /** Who wrote what came in, by what the message itself says. */
  senderOf(context: Context): Person | null {
    const value = this.#senderKey?.(context);
    const known = this.byKey(value);
    if (known) return known;
    const first = (reads: readonly Read[]) => reads.map((read) => textOf(read(context))).find((text) => text);
    const [address, name] = [first(this.#senderAddress), first(this.#senderName)];
    const key = keyOf(value);
    return address || name || key ? { key, ...(address && { address }), ...(name && { name }) } : null;
  }

  isOwn({ key, address }: Person): boolean {
    return (key !== null && this.#own.has(key)) || (address !== undefined && this.#own.has(address));
  }
}

/** Somebody by columns of a row that stands beside. */
export function personBeside(
  row: StoreRow,
  table: StoreTable,
  address: readonly string[],
  name: readonly string[],
  key: string | null,
): Person {
  const [where, called] = [said(row, columnsOf(table, address)), said(row, columnsOf(table, name))];
  return { key, ...(called && { name: called }), ...(where && { address: where }) };
}
