import type { Value } from "../../sqlite/format/record.ts";
import { type Gathered, keyOf, ROWID, type StoreRow, type StoreTable, storedAt } from "../gathered.ts";
import type { Cond, MappedTime, MappedValue, Mapping } from "./mapping.ts";
import { stepped } from "./steps.ts";
import { momentOf } from "./times.ts";

/** A message that is put together: its row, the part of its table's name, and rows that it is joined with, found when they are asked for. */
export interface Context {
  readonly row: StoreRow;
  /** Null: which of the tables it is of is not known. */
  readonly part: string | null;
  readonly joined: Map<string, StoreRow | null>;
  /** An item of a list that stands in a value. */
  readonly item?: string;
  /** Rows of other tables that are read by themselves. */
  readonly beside?: StoreRow;
}

export type Read = (context: Context) => Value | undefined;

/** The column of a table by its name. */
export function columnAt(table: StoreTable, name: string): number | null {
  const at = table.column(name);
  return at >= 0 ? at : name === "rowid" ? ROWID : null;
}

/** Rows of a table that tells who the owner is. */
const MOST_OWN = 100;

/** Tables of a database under the names that a mapping gives them, and its values as functions. */
export class Compiled {
  readonly #gathered: Gathered;
  readonly #mapping: Mapping;
  /** Tables of the messages. */
  readonly messages: readonly { readonly table: StoreTable; readonly part: string | null }[];
  readonly #tables = new Map<string, StoreTable>();
  readonly #joins: ReadonlyMap<string, { key: MappedValue; column: string }>;

  constructor(gathered: Gathered, mapping: Mapping) {
    this.#gathered = gathered;
    this.#mapping = mapping;
    const messages: { table: StoreTable; part: string | null }[] = [];
    for (const ref of mapping.fits.tables) {
      if ("pattern" in ref) {
        const pattern = new RegExp(ref.pattern, "u");
        for (const table of gathered.tables) {
          const part = pattern.exec(table.name)?.[1];
          if (ref.as === "m" && part !== undefined && this.#hasColumns(table)) messages.push({ table, part });
        }
      } else {
        const table = this.named(ref.name);
        if (!table) continue;
        if (ref.as === "m") messages.push({ table, part: null });
        else this.#tables.set(ref.as, table);
      }
    }
    this.messages = messages;
    this.#joins = new Map(mapping.joins.map(({ as, on }) => [as, { key: on[0], column: on[1] }]));
  }

  #hasColumns(table: StoreTable): boolean {
    return this.#mapping.fits.columns.m?.every((name) => table.column(name) >= 0 || name === "rowid") ?? true;
  }

  named(name: string): StoreTable | null {
    return this.#gathered.tables.find((table) => table.name === name) ?? null;
  }

  /** @param alias table that its columns are of, where they are not the messages' or of a joined one */
  value(value: MappedValue, beside?: StoreTable): Read {
    if ("const" in value) {
      const fixed = typeof value.const === "boolean" ? Number(value.const) : value.const;
      return () => fixed;
    }
    if ("part" in value) return ({ part }) => part ?? undefined;
    const dot = value.col.indexOf(".");
    const [alias, name] = [value.col.slice(0, dot), value.col.slice(dot + 1)];
    const { as: steps } = value;
    if (alias === "each") return ({ item }) => stepped(item, steps);
    if (alias === "m") {
      const at = this.messages.map(({ table }) => columnAt(table, name)).find((one) => one !== null) ?? null;
      if (at === null) return () => undefined;
      return steps ? ({ row }) => stepped(storedAt(row, at), steps) : ({ row }) => storedAt(row, at);
    }
    const join = this.#joins.get(alias);
    const table = this.#tables.get(alias) ?? beside;
    const at = table ? columnAt(table, name) : null;
    if (!table || at === null) return () => undefined;
    if (!join) return ({ beside: row }) => (row ? stepped(storedAt(row, at), steps) : undefined);
    return (context) => {
      const row = this.joined(alias, context);
      return row ? stepped(storedAt(row, at), steps) : undefined;
    };
  }

  /** The row that a message is joined with. Of an erased one an erased row, where there is one: what is there now may be another's. */
  joined(alias: string, context: Context): StoreRow | null {
    const known = context.joined.get(alias);
    if (known !== undefined) return known;
    const join = this.#joins.get(alias);
    const table = this.#tables.get(alias);
    const column = join && table ? columnAt(table, join.column) : null;
    let row: StoreRow | null = null;
    if (join && table && column !== null) {
      const rows = this.#withText(alias, table, table.find(column, this.value(join.key)(context)));
      row = (context.row.isThere ? rows[0] : (rows.find(({ isThere }) => !isThere) ?? rows[0])) ?? null;
    }
    context.joined.set(alias, row);
    return row;
  }

  /** Of several rows that are joined with a message, those that hold its text: others of them are its pictures. */
  #withText(alias: string, table: StoreTable, rows: readonly StoreRow[]): readonly StoreRow[] {
    if (rows.length < 2) return rows;
    const columns = this.#mapping.text.flatMap((value) =>
      "col" in value && value.col.startsWith(`${alias}.`) ? (columnAt(table, value.col.slice(alias.length + 1)) ?? []) : [],
    );
    const full = rows.filter((row) => columns.some((column) => keyOf(storedAt(row, column)) !== null));
    return full.length > 0 ? full : rows;
  }

  /** Who the owner is: constants, and what small tables say. */
  own(): ReadonlySet<string> {
    const keys = this.#mapping.own.flatMap((value) => {
      if ("const" in value) return [keyText(value.const)];
      if (!("col" in value)) return [];
      const dot = value.col.indexOf(".");
      const table = this.#tables.get(value.col.slice(0, dot));
      const read = this.value(value, table);
      return (table?.rows ?? [])
        .slice(0, MOST_OWN)
        .flatMap((row) => keyOf(read({ row, part: null, joined: new Map(), beside: row })) ?? []);
    });
    return new Set(keys.filter((key) => key !== ""));
  }

  time(time: MappedTime, beside?: StoreTable): (context: Context) => number | undefined {
    const from = this.value(time.from, beside);
    const plus = time.plus && this.value(time.plus.from, beside);
    return (context) => momentOf(time, from(context), plus?.(context));
  }

  /** Is it so? What is not known is not so. */
  cond(cond: Cond): (context: Context) => boolean {
    const parts = cond.map(({ from, in: among, not, empty }) => {
      const read = this.value(from);
      const inside = among && new Set(among.map(keyText));
      const outside = not && new Set(not.map(keyText));
      return (context: Context) => {
        const value = read(context);
        if (value === undefined) return false;
        const key = keyOf(value) ?? "";
        if (inside && !inside.has(key)) return false;
        if (outside?.has(key)) return false;
        return empty === undefined || (key === "") === empty;
      };
    });
    return (context) => parts.every((part) => part(context));
  }
}

/** What a constant of a mapping is as a key. */
export const keyText = (value: string | number | boolean | null): string =>
  value === null ? "" : typeof value === "boolean" ? String(Number(value)) : String(value);
