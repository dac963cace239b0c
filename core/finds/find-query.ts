import type { Find } from "./find.ts";

/** What is filtered to. Empty lists and nulls filter nothing out. */
export interface Query {
  /** Numbers of media. */
  readonly media: readonly number[];
  readonly kinds: readonly Find["kind"][];
  readonly states: readonly Find["state"][];
  readonly conditions: readonly Find["condition"][];
  /** Days since 1970, both inclusive. */
  readonly days: { readonly from: number; readonly to: number } | null;
  /** Words that name or path must hold, all of them, in any case. */
  readonly words: string;
  /** Only what begins in this stretch of a medium: absolute bytes, end exclusive. */
  readonly place: { readonly medium: number; readonly from: number; readonly to: number } | null;
  /** Only what lies in this folder or below it: a key as `folders` gives it. */
  readonly folder: string | null;
  readonly sort: "newest" | "oldest" | "name" | "largest" | "place";
}

export const EVERYTHING: Query = {
  media: [],
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
  /** Counts of each facet with all filters but its own. Media: by their number. */
  readonly media: ReadonlyMap<number, number>;
  readonly kinds: Record<Find["kind"], number>;
  readonly states: Record<Find["state"], number>;
  readonly conditions: Record<Find["condition"], number>;
  readonly days: readonly DayCount[];
  /** First and last day of all finds, whatever is filtered: the axis stays where it is. Clocks that were never set are left out. */
  readonly span: { readonly first: number; readonly last: number } | null;
  /** Bytes of all rows. */
  readonly bytes: number;
  /** How many things there are, whatever is filtered; what is in several places counts once. */
  readonly all: number;
}
