import type { Value } from "../../sqlite/format/record.ts";
import { type Gathered, keyOf, ROWID, type StoreRow, storedAt } from "../gathered.ts";
import type { MappedValue } from "./mapping.ts";
import { waysInto } from "./packed.ts";
import { type Profile, profileOf } from "./profile.ts";
import { type Column, columnOf, type Sampled, type Source, sampleOf, sourcesIn } from "./source.ts";
import { stepped } from "./steps.ts";

/** A source with what its columns are like. */
export class Surveyed {
  readonly source: Source;
  readonly sample: readonly Sampled[];
  readonly rows: number;
  #profiles: readonly Profile[] | null = null;
  readonly #keys = new Map<number, ReadonlyMap<string, readonly StoreRow[]>>();

  constructor(source: Source) {
    this.source = source;
    this.sample = sampleOf(source);
    this.rows = source.tables.reduce((sum, { table }) => sum + table.rows.length, 0);
  }

  get name(): string {
    return this.source.name;
  }

  /** Its columns, and what is packed in them; and its row id, where no column is another name of that. */
  get profiles(): readonly Profile[] {
    this.#profiles ??= this.#look();
    return this.#profiles;
  }

  #look(): Profile[] {
    const { table } = this.source.tables[0].table;
    const numbers = table.columns.map((_, at) => at);
    if (table.rowidColumn < 0 && !table.withoutRowid) numbers.push(ROWID);
    return numbers.flatMap((at) => {
      const plain = columnOf(this.source, this.sample, at);
      const ways = waysInto(plain.values);
      // A text that opens is not read as it stands.
      const opens = ways.length > 1 && plain.values.some((value) => typeof value === "string" && value !== "");
      return ways.flatMap((steps) =>
        steps.length > 0 ? profileOf(columnOf(this.source, this.sample, at, steps)) : opens ? [] : profileOf(plain),
      );
    });
  }

  /** Rows of all its tables by what a column says. */
  by(at: number): ReadonlyMap<string, readonly StoreRow[]> {
    const { tables } = this.source;
    if (tables.length === 1) return tables[0].table.by(at);
    const known = this.#keys.get(at);
    if (known) return known;
    const all = new Map<string, StoreRow[]>();
    for (const { table } of tables) for (const [key, rows] of table.by(at)) all.set(key, [...(all.get(key) ?? []), ...rows]);
    this.#keys.set(at, all);
    return all;
  }

  /** Columns whose values name one row each. */
  get keys(): readonly Profile[] {
    return this.profiles.filter(
      ({ column, filled, known, distinct, prose, numbers, integers, blobs, areIds, meanLength, clock }) =>
        column.steps.length === 0 &&
        known > 0 &&
        filled >= known * 0.95 &&
        distinct >= filled * 0.98 &&
        (numbers === 0 || integers === numbers) &&
        (clock === null || column.at === ROWID) &&
        prose < 0.3 &&
        (blobs < 0.5 || areIds) &&
        meanLength < 100,
    );
  }
}

export const surveyOf = (gathered: Gathered): Surveyed[] =>
  sourcesIn(gathered.tables)
    .map((source) => new Surveyed(source))
    .filter(({ sample }) => sample.length > 0);

/** A column of messages as a mapping names it. */
export const valueAs = (alias: string, { name, steps }: Column): MappedValue => ({
  col: `${alias}.${name}`,
  ...(steps.length > 0 && { as: [...steps] }),
});

/** A column that says the same as one of another table's, whose rows it names. */
export interface Join {
  readonly to: Surveyed;
  readonly key: Profile;
  /** Of its values so many are found there, 0 to 1. */
  readonly share: number;
  /** How sure it is no chance, 0 to 1. */
  readonly score: number;
}

const LEAST_OF_TEXTS = 0.4;
const LEAST_OF_NUMBERS = 0.8;
/** Values that are looked up. */
const MOST_LOOKED_UP = 400;

const distinctKeys = (values: readonly (Value | undefined)[]): string[] => {
  const keys = new Set<string>();
  for (const value of values) {
    const key = keyOf(value);
    if (key !== null) keys.add(key);
  }
  const all = [...keys];
  const step = Math.max(1, Math.floor(all.length / MOST_LOOKED_UP));
  return all.filter((_, index) => index % step === 0);
};

const small = (key: string): number | null => (/^\d{1,9}$/.test(key) ? Number(key) : null);

/** Names that have a word in common are a hint that one names the other. */
function namesAgree(column: string, table: string, key: string): boolean {
  const words = (name: string) =>
    name
      .toLowerCase()
      .split(/[^\p{L}\d]+/u)
      .filter((word) => word.length > 1 && word !== "id");
  const own = words(column);
  return own.some(
    (word) => words(table).some((other) => other.startsWith(word) || word.startsWith(other)) || (words(key).includes(word) && key !== "id"),
  );
}

/** The tables whose rows a column names, the likeliest first. */
export function joinsOf(column: Column, others: readonly Surveyed[]): Join[] {
  const keys = distinctKeys(column.values);
  if (keys.length === 0) return [];
  return others
    .filter(({ source }) => source !== column.source)
    .flatMap((to) => {
      let best: Join | null = null;
      for (const key of to.keys) {
        const index = to.by(key.column.at);
        const share = keys.filter((one) => index.has(one)).length / keys.length;
        // Texts are found elsewhere by no chance; of numbers nearly all must be.
        if (share < (keys.every((one) => small(one) === null) ? LEAST_OF_TEXTS : LEAST_OF_NUMBERS)) continue;
        const score = Math.min(1, share * specificity(keys, index) + (namesAgree(column.name, to.name, key.column.name) ? 0.35 : 0));
        if (!best || score > best.score) best = { to, key, share, score };
      }
      return best ? [best] : [];
    })
    .sort((a, b) => b.score - a.score);
}

/**
 * Numbers that begin at one are found in every table that is long enough: they tell only by how many of its rows they name. Others are found by no
 * chance.
 */
function specificity(keys: readonly string[], index: ReadonlyMap<string, unknown>): number {
  const numbers = keys.map(small);
  if (numbers.some((one) => one === null)) return 1;
  return 0.3 + 0.6 * Math.min(1, keys.length / Math.max(1, Math.min(index.size, MOST_LOOKED_UP)));
}

/** What a joined row says in a column. */
export const joinedValue = (join: Join, key: Value | undefined, column: Column): Value | undefined => {
  const name = keyOf(key);
  const row = name === null ? undefined : join.to.by(join.key.column.at).get(name)?.[0];
  return row && stepped(storedAt(row, column.at), column.steps.length > 0 ? column.steps : undefined);
};
