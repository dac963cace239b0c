import type { Value } from "../../sqlite/format/record.ts";
import { ROWID, type StoreRow, type StoreTable, storedAt } from "../gathered.ts";
import type { Step } from "./mapping.ts";
import { stepped } from "./steps.ts";

/** A table, or many of one shape that are read as one; then each has a part of its name that tells which it is. */
export interface Source {
  readonly tables: readonly { readonly table: StoreTable; readonly part: string | null }[];
  /** How a mapping names it: its name, or what all names have in common. */
  readonly name: string;
  readonly pattern: string | null;
  /** Its name, or the pattern of its names, whatever other tables say of it: the same in every database of an app. */
  readonly shape: string;
}

/** A row that was taken to look at, and which table it is of. */
export interface Sampled {
  readonly row: StoreRow;
  readonly part: string | null;
}

/** Rows of a table that are looked at to tell what it is. */
export const MOST_SAMPLED = 3000;
/** With fewer rows in place, erased ones are looked at too. */
const FEW = 30;
/** So many tables of one shape are a table for each of something. */
const LEAST_FAMILY = 3;
/** Of the names of tables so many must stand in a column for it to speak of tables. */
const SPOKEN_OF = 0.5;
const MOST_ROWS_EACH = 50;
/** Tables that a full-text index keeps for itself ("FTS3 and FTS4" §9.1), and those of the database. */
const INNER = /_(?:segments|segdir|docsize|stat|data|idx|config)$|^sqlite_/;

const escaped = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, "\\$&");

/** The tables of a database as sources: those of one shape whose names differ in one place only are one. */
export function sourcesIn(tables: readonly StoreTable[]): Source[] {
  const shapes = new Map<string, StoreTable[]>();
  for (const table of tables) {
    if (INNER.test(table.name)) continue;
    const shape = JSON.stringify(table.table.columns.map(({ name, affinity }) => [name, affinity]));
    shapes.set(shape, [...(shapes.get(shape) ?? []), table]);
  }
  return [...shapes.values()].flatMap((alike): Source[] => {
    const family =
      alike.length >= LEAST_FAMILY
        ? familyOf(
            alike,
            // The database counts the rows of each by its name: that is none of the app's.
            tables.filter((table) => !alike.includes(table) && !INNER.test(table.name)),
          )
        : null;
    return family
      ? [family]
      : alike.map((table) => ({ tables: [{ table, part: null }], name: table.name, pattern: null, shape: table.name }));
  });
}

/** Names that have a beginning and an end in common, and something between that tells them apart. `others`: tables that may speak of them. */
function familyOf(tables: readonly StoreTable[], others: readonly StoreTable[]): Source | null {
  const names = tables.map(({ name }) => name);
  let from = 0;
  while (names.every((name) => name[from] !== undefined && name[from] === names[0][from])) from++;
  // A number is one thing: its first digits, if all have them in common, are of it too.
  while (from > 0 && /\d/.test(names[0][from - 1])) from--;
  let to = 0;
  const at = (name: string) => name[name.length - 1 - to];
  while (names.every((name) => name.length - to > from + 1 && at(name) === at(names[0]))) to++;
  while (to > 0 && /\d/.test(names[0][names[0].length - to])) to--;
  if (from < 1) return null;
  const parts = names.map((name) => name.slice(from, name.length - to));
  if (new Set(parts).size < parts.length || parts.some((part) => part === "")) return null;
  const [head, tail] = [names[0].slice(0, from), names[0].slice(names[0].length - to)];
  const [before, behind] = [escaped(head), escaped(tail)];
  // A number with zeros before it is the number: so it stands where others name it.
  const plain = parts.map((part) => part.replace(/^0+(?=\d)/, ""));
  const numbered = parts.every((part) => /^\d+$/.test(part)) && new Set(plain).size === plain.length;
  const shape = `^${before}${numbered ? "0*(\\d+)" : "(.+)"}${behind}$`;
  const isSpokenOf = areSpokenOf(names, others);
  return {
    tables: tables.map((table, index) => ({ table, part: isSpokenOf ? table.name : numbered ? plain[index] : parts[index] })),
    name: `${head}…${tail}`,
    pattern: isSpokenOf ? `^(${before}.+${behind})$` : shape,
    shape,
  };
}

/** Does a column name most of these tables by their whole names? A list of them has about as many rows. */
const areSpokenOf = (names: readonly string[], others: readonly StoreTable[]): boolean =>
  others.some(
    (table) =>
      table.rows.length <= names.length * MOST_ROWS_EACH &&
      table.table.columns.some((_, at) => names.filter((name) => table.by(at).has(name)).length > names.length * SPOKEN_OF),
  );

/** Rows to look at, from all over the source: those that are there, or all where they are few. */
export function sampleOf(source: Source): Sampled[] {
  const there: Sampled[] = [];
  const all: Sampled[] = [];
  for (const { table, part } of source.tables)
    for (const row of table.rows) {
      const one = { row, part };
      all.push(one);
      if (row.isThere) there.push(one);
    }
  const from = there.length >= FEW ? there : all;
  if (from.length <= MOST_SAMPLED) return from;
  // One from each stretch, at no even steps: what comes round regularly would be met in one phase only.
  const stretch = from.length / MOST_SAMPLED;
  return Array.from({ length: MOST_SAMPLED }, (_, index) => from[Math.floor((index + scattered(index)) * stretch)]);
}

/** A fraction for a number, the same in every run and like those of no other (Knuth's multiplicative hash, TAOCP vol. 3 §6.4). */
const scattered = (number: number): number => (Math.imul(number + 1, 2_654_435_761) >>> 0) / 2 ** 32;

/** A column of a source, or what is packed in one: what it says in each row of the sample. */
export interface Column {
  readonly source: Source;
  /** Its name as a mapping has it. */
  readonly name: string;
  /** Its number, or ROWID. */
  readonly at: number;
  readonly steps: readonly Step[];
  readonly values: readonly (Value | undefined)[];
}

export const columnOf = (source: Source, sample: readonly Sampled[], at: number, steps: readonly Step[] = []): Column => ({
  source,
  name: at === ROWID ? "rowid" : source.tables[0].table.table.columns[at].name,
  at,
  steps,
  values: sample.map(({ row }) => stepped(storedAt(row, at), steps.length > 0 ? steps : undefined)),
});
