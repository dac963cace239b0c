import type { ByHand } from "../../../core/stores/mapping/by-hand.ts";
import type { Mapping } from "../../../core/stores/mapping/mapping.ts";
import type { Meaning } from "../../../core/stores/mapping/meaning.ts";
import type { PersonEntry } from "../finds/people-desk.ts";

/** A conversation of a database as it reads with what was said of it. */
export interface ReadTalk {
  readonly id: string;
  readonly title: string;
  readonly messages: number;
  readonly erased: number;
}

export interface MeaningAnswer {
  readonly meaning: Meaning;
  /** Package of the app whose database it is, where its path says so. */
  readonly app: string | null;
  readonly rows: number;
  readonly erased: number;
  readonly talks: readonly ReadTalk[];
  /** It was said before that it is no messenger. */
  readonly isRefused: boolean;
}

export type MeaningOutcome = { readonly ok: true; readonly answer: MeaningAnswer } | { readonly ok: false; readonly because: string };

/** What is said of a database to be kept: how it is read, or that it is no messenger. */
export type Verdict =
  | { readonly by: "hand"; readonly said: ByHand }
  | { readonly by: "file"; readonly mapping: Mapping }
  | { readonly by: "no messenger" };

/** What became of it. `read`: how many messages of this database are shown now; null: they are read when a scan comes to them. */
export type Kept = { readonly ok: true; readonly read: number | null } | { readonly ok: false; readonly because: string };

export type ReadMessages = readonly PersonEntry[];
