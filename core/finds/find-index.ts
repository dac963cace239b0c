import { onMedium } from "../bytes/extents.ts";
import { grown } from "../bytes/grown.ts";
import { CONDITIONS, type Find, KINDS, STATES, timeOf } from "./find.ts";
import { type FolderCount, FolderTable, folderKey } from "./folder-table.ts";

const DAY = 86_400_000;
/** Days that a clock in use can show: 2000 to 2100. Others must not stretch the axis over a century. */
const FIRST_SANE = 10_957;
const LAST_SANE = 47_482;
/** Sorts behind every name. */
const NAMELESS = "\uffff";
/** Day of finds without any time. */
const NO_DAY = -0x8000_0000;

/** What is filtered to. Empty lists and nulls filter nothing out. */
export interface Query {
  readonly kinds: readonly Find["kind"][];
  readonly states: readonly Find["state"][];
  readonly conditions: readonly Find["condition"][];
  /** Days since 1970, both inclusive. */
  readonly days: { readonly from: number; readonly to: number } | null;
  /** Words that name or path must hold, all of them, in any case. */
  readonly words: string;
  /** Only what begins in this stretch of the source: absolute bytes, end exclusive. */
  readonly place: { readonly from: number; readonly to: number } | null;
  /** Only what lies in this folder or below it: a key as `folders` gives it. */
  readonly folder: string | null;
  readonly sort: "newest" | "oldest" | "name" | "largest" | "place";
}

export const EVERYTHING: Query = {
  kinds: [],
  states: [],
  conditions: [],
  days: null,
  words: "",
  place: null,
  folder: null,
  sort: "newest",
};

/** How many finds of each day pass all filters but that of days. */
export interface DayCount {
  readonly day: number;
  readonly erased: number;
  readonly others: number;
}

export interface Answer {
  /** Rows that pass, sorted. */
  readonly rows: Uint32Array;
  /** Counts of each facet with all filters but its own. */
  readonly kinds: Record<Find["kind"], number>;
  readonly states: Record<Find["state"], number>;
  readonly conditions: Record<Find["condition"], number>;
  readonly days: readonly DayCount[];
  /** First and last day of all finds, whatever is filtered: the axis stays where it is. Clocks that were never set are left out. */
  readonly span: { readonly first: number; readonly last: number } | null;
  /** Bytes of all rows. */
  readonly bytes: number;
}

/** Which filter a row fails: one bit each, so that each facet can leave out its own. */
const Fails = { kind: 1, state: 2, condition: 4, days: 8, words: 16, place: 32, folder: 64 } as const;

/**
 * The columns of a job's finds that are filtered and sorted by, in flat arrays: 200,000 rows answer within a frame or
 * two. Rows are numbered in the order they came; a find that comes again keeps its row.
 */
export class FindIndex {
  #kind = new Uint8Array(1024);
  #state = new Uint8Array(1024);
  #condition = new Uint8Array(1024);
  #day = new Int32Array(1024);
  #time = new Float64Array(1024);
  #size = new Float64Array(1024);
  #start = new Float64Array(1024);
  /** Each folder once, by number: most finds share theirs. */
  #folder = new Int32Array(1024);
  readonly #folders = new FolderTable();
  readonly #words: string[] = [];
  readonly #names: string[] = [];
  readonly #ids: string[] = [];
  readonly #rows = new Map<string, number>();
  /** All rows in each order that was asked for since the last change: sorting 200,000 takes longer than filtering them. */
  readonly #orders = new Map<Query["sort"], Uint32Array>();

  get length(): number {
    return this.#ids.length;
  }

  rowOf(id: string): number | undefined {
    return this.#rows.get(id);
  }

  idOf(row: number): string {
    return this.#ids[row];
  }

  sizeOf(row: number): number {
    return this.#size[row];
  }

  kindOf(row: number): Find["kind"] {
    return KINDS[this.#kind[row]];
  }

  conditionOf(row: number): Find["condition"] {
    return CONDITIONS[this.#condition[row]];
  }

  /** First byte on the source, or -1. */
  startOf(row: number): number {
    return this.#start[row];
  }

  isErased(row: number): boolean {
    return STATES[this.#state[row]] === "erased";
  }

  /** Adds a find, or what was learned about it. @returns its row */
  put(find: Find): number {
    const row = this.#rows.get(find.id) ?? this.#ids.length;
    if (row === this.#ids.length) {
      if (row === this.#kind.length) this.#grow(row * 2);
      this.#ids.push(find.id);
      this.#rows.set(find.id, row);
    }
    this.#orders.clear();
    const time = timeOf(find);
    this.#kind[row] = KINDS.indexOf(find.kind);
    this.#state[row] = STATES.indexOf(find.state);
    this.#condition[row] = CONDITIONS.indexOf(find.condition);
    this.#time[row] = time ?? Number.NEGATIVE_INFINITY;
    this.#day[row] = time === null ? NO_DAY : Math.floor(time / DAY);
    this.#size[row] = find.size;
    this.#start[row] = onMedium(find.extents)[0]?.offset ?? -1;
    this.#folder[row] = this.#folders.numberOf(folderKey(find));
    this.#words[row] = `${find.path ?? ""} ${find.name ?? ""} ${find.camera ?? ""}`.toLowerCase();
    this.#names[row] = find.name?.toLowerCase() ?? NAMELESS;
    return row;
  }

  #grow(length: number): void {
    this.#folder = grown(this.#folder, new Int32Array(length));
    this.#kind = grown(this.#kind, new Uint8Array(length));
    this.#state = grown(this.#state, new Uint8Array(length));
    this.#condition = grown(this.#condition, new Uint8Array(length));
    this.#day = grown(this.#day, new Int32Array(length));
    this.#time = grown(this.#time, new Float64Array(length));
    this.#size = grown(this.#size, new Float64Array(length));
    this.#start = grown(this.#start, new Float64Array(length));
  }

  /** Filters, counts and sorts in one pass. */
  ask(query: Query): Answer {
    const wanted = <T extends string>(all: readonly T[], some: readonly T[]) =>
      Uint8Array.from(all, (one) => Number(some.length === 0 || some.includes(one)));
    const kinds = wanted(KINDS, query.kinds);
    const states = wanted(STATES, query.states);
    const conditions = wanted(CONDITIONS, query.conditions);
    const words = query.words.toLowerCase().split(/\s+/).filter(Boolean);
    const { days, place, folder } = query;
    const inFolder = folder === null ? null : this.#folders.within(folder);
    const counts = {
      kind: new Uint32Array(KINDS.length),
      state: new Uint32Array(STATES.length),
      condition: new Uint32Array(CONDITIONS.length),
    };
    const perDay = new Map<number, { erased: number; others: number }>();
    const rows = new Uint32Array(this.#ids.length);
    const erased = STATES.indexOf("erased");
    let passed = 0;
    let bytes = 0;
    let first = Number.POSITIVE_INFINITY;
    let last = Number.NEGATIVE_INFINITY;
    for (const row of this.#orderOf(query.sort)) {
      let fails = 0;
      const day = this.#day[row];
      if (day >= FIRST_SANE && day <= LAST_SANE) {
        if (day < first) first = day;
        if (day > last) last = day;
      }
      if (kinds[this.#kind[row]] === 0) fails |= Fails.kind;
      if (states[this.#state[row]] === 0) fails |= Fails.state;
      if (conditions[this.#condition[row]] === 0) fails |= Fails.condition;
      if (days && (day < days.from || day > days.to)) fails |= Fails.days;
      if (place && (this.#start[row] < place.from || this.#start[row] >= place.to)) fails |= Fails.place;
      if (inFolder && inFolder[this.#folder[row]] === 0) fails |= Fails.folder;
      for (const word of words) {
        if (this.#words[row].includes(word)) continue;
        fails |= Fails.words;
        break;
      }
      if ((fails & ~Fails.kind) === 0) counts.kind[this.#kind[row]]++;
      if ((fails & ~Fails.state) === 0) counts.state[this.#state[row]]++;
      if ((fails & ~Fails.condition) === 0) counts.condition[this.#condition[row]]++;
      if ((fails & ~Fails.days) === 0 && day !== NO_DAY) {
        let count = perDay.get(day);
        if (!count) {
          count = { erased: 0, others: 0 };
          perDay.set(day, count);
        }
        if (this.#state[row] === erased) count.erased++;
        else count.others++;
      }
      if (fails !== 0) continue;
      rows[passed++] = row;
      bytes += this.#size[row];
    }
    const named = <T extends string>(all: readonly T[], column: Uint32Array) =>
      Object.fromEntries(all.map((one, index) => [one, column[index]])) as Record<T, number>;
    return {
      rows: rows.subarray(0, passed),
      kinds: named(KINDS, counts.kind),
      states: named(STATES, counts.state),
      conditions: named(CONDITIONS, counts.condition),
      days: [...perDay].map(([day, count]) => ({ day, ...count })).sort((a, b) => a.day - b.day),
      span: first <= last ? { first, last } : null,
      bytes,
    };
  }

  /** The folders right under one: volumes under "", else what lies a step deeper. Counts are of what passes all other filters. */
  foldersUnder(query: Query, under: string): FolderCount[] {
    const passed = new Uint32Array(this.#folders.length);
    for (const row of this.ask({ ...query, folder: null }).rows) passed[this.#folder[row]]++;
    const standing = new Uint8Array(this.#folders.length);
    const erased = STATES.indexOf("erased");
    for (let row = 0; row < this.#ids.length; row++) if (this.#state[row] !== erased) standing[this.#folder[row]] = 1;
    return this.#folders.under(under, passed, standing);
  }

  #orderOf(sort: Query["sort"]): Uint32Array {
    const known = this.#orders.get(sort);
    if (known) return known;
    const order = this.#sorted(
      Uint32Array.from(this.#ids, (_, row) => row),
      sort,
    );
    this.#orders.set(sort, order);
    return order;
  }

  #sorted(rows: Uint32Array, sort: Query["sort"]): Uint32Array {
    const time = this.#time;
    const size = this.#size;
    const start = this.#start;
    switch (sort) {
      case "newest":
        return rows.sort((a, b) => (time[b] === time[a] ? a - b : time[b] > time[a] ? 1 : -1));
      case "oldest":
        return rows.sort((a, b) => (time[b] === time[a] ? a - b : time[a] > time[b] ? 1 : -1));
      case "largest":
        return rows.sort((a, b) => size[b] - size[a] || a - b);
      case "place":
        return rows.sort((a, b) => start[a] - start[b] || a - b);
      case "name":
        return rows.sort((a, b) => (this.#names[a] < this.#names[b] ? -1 : this.#names[a] > this.#names[b] ? 1 : a - b));
    }
  }

  /** Neighbouring rows of one day, for headings: day (null: no time) and how many. */
  daysOf(rows: Uint32Array): { day: number | null; count: number }[] {
    const groups: { day: number | null; count: number }[] = [];
    for (const row of rows) {
      const day = this.#day[row] === NO_DAY ? null : this.#day[row];
      const last = groups.at(-1);
      if (last && last.day === day) last.count++;
      else groups.push({ day, count: 1 });
    }
    return groups;
  }
}
