import type { BandedFact } from "./bands.ts";
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
  /** Words that filter nothing out: what name or path holds any of them comes first. */
  readonly first: string;
  /** Only what begins in this stretch of a medium: absolute bytes, end exclusive. */
  readonly place: { readonly medium: number; readonly from: number; readonly to: number } | null;
  /** Only what lies in this folder or below it: a key as `folders` gives it. */
  readonly folder: string | null;
  readonly formats: readonly string[];
  /** Numbers of bands (see bands.ts) of each fact. */
  readonly bands: Readonly<Record<BandedFact, readonly number[]>>;
  readonly sort: "newest" | "oldest" | "name" | "largest" | "longest" | "place";
  /** What stands together under a heading. By day only where the order is one of time. */
  readonly group: "day" | "folder" | "camera" | "kind" | "nothing";
}

export const ANY_BAND: Query["bands"] = { size: [], length: [], pixels: [] };

export const EVERYTHING: Query = {
  media: [],
  kinds: [],
  states: [],
  conditions: [],
  days: null,
  words: "",
  first: "",
  place: null,
  folder: null,
  formats: [],
  bands: ANY_BAND,
  sort: "newest",
  group: "day",
};

/** How many finds of each day pass all filters but that of days. */
export interface DayCount {
  readonly day: number;
  readonly erased: number;
  readonly others: number;
}

/** Neighbouring finds of an answer that have something in common: a day since 1970, a folder's key, a camera, a kind. Null: it is not known. */
export interface FindGroup {
  readonly of: number | string | null;
  readonly count: number;
}

/** How many finds are of each format, and in each band of each fact. */
export interface FactCounts {
  readonly formats: ReadonlyMap<string, number>;
  readonly bands: Readonly<Record<BandedFact, readonly number[]>>;
}

export interface Answer extends FactCounts {
  /** Rows that pass, sorted. */
  readonly rows: Uint32Array;
  /** Null: they stand under no headings. */
  readonly groups: readonly FindGroup[] | null;
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
