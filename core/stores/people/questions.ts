import type { Answer, DayCount } from "../../finds/find-query.ts";
import type { RecordCondition, RecordKind, RecordState } from "../../finds/record.ts";
import type { PersonView } from "./persons.ts";

/** What is asked of people's data, and what is answered. */

/** Where an entry is kept. */
export interface EntryPlace {
  readonly medium: number;
  readonly find: string;
  readonly number: number;
  readonly position: number;
}

/** Days since 1970, both inclusive. */
export type DayRange = { readonly from: number; readonly to: number } | null;

/** What is shown of a conversation in a list. */
export interface TalkView {
  readonly key: string;
  readonly medium: number;
  readonly title: string;
  readonly group: boolean;
  readonly members: readonly { readonly name?: string; readonly address?: string }[];
  readonly store: string;
  /** Id of the find that it was read from. */
  readonly database: string | null;
  readonly messages: number;
  readonly erased: number;
  /** Moment of the last message, or null. */
  readonly last: number | null;
  /** Messages that hold the words that were asked for. */
  readonly hits: number;
}

/** What any entry is narrowed to. `who`: a name or an address. Empty lists filter nothing out. */
export interface Narrow {
  readonly words: string;
  readonly days?: DayRange;
  readonly who?: string;
  readonly states?: readonly RecordState[];
  readonly conditions?: readonly RecordCondition[];
}

export interface PeopleQuery extends Narrow {
  readonly kind: "contact" | "call" | "event";
}

/** How many entries there are of each state, condition and day, with all filters but its own. */
export interface PeopleFacets {
  readonly states: Partial<Record<RecordState, number>>;
  readonly conditions: Partial<Record<RecordCondition, number>>;
  readonly days: readonly DayCount[];
  /** First and last day of all that are asked about, whatever is filtered: the axis stays where it is. Clocks that were never set are left out. */
  readonly span: Answer["span"];
}

/** What is asked of one person's time line. */
export interface PersonQuery {
  /** Any address of theirs, as it is written or by its key. */
  readonly key: string;
  /** Empty lists filter nothing out. Kinds and apps are one filter: what is of one of these kinds, or a message of one of these apps. */
  readonly kinds: readonly RecordKind[];
  /** As `appOf` tells them. */
  readonly apps: readonly string[];
  readonly states: readonly RecordState[];
  readonly conditions: readonly RecordCondition[];
  readonly days: DayRange;
  readonly words: string;
  /** Only what carries files. */
  readonly files: boolean;
  readonly earliest: boolean;
}

/** What is of a person; each count with all filters but its own. */
export interface PersonAnswer extends PeopleFacets {
  readonly person: PersonView;
  readonly places: readonly EntryPlace[];
  readonly kinds: Partial<Record<RecordKind, number>>;
  /** Messages of each app. */
  readonly apps: Readonly<Record<string, number>>;
  readonly files: number;
  /** Numbers of rows that are skipped among their messages, whatever is filtered. */
  readonly skipped: number;
}

export type PeopleCounts = Readonly<Record<"conversation" | "contact" | "call" | "event", number>>;
export const NOBODY: PeopleCounts = { conversation: 0, contact: 0, call: 0, event: 0 };
