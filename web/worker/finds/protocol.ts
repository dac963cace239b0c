import type { Find } from "../../../core/finds/find.ts";
import type { Answer } from "../../../core/finds/find-query.ts";
import type { RecordKind } from "../../../core/finds/record.ts";

/** The number that what was written goes by, as if it were a medium: no medium of a ticket has it. */
export const WRITTEN = 0;

/** The number that data of a row go by, while they are looked at. */
export const IN_A_ROW = -1;
/** Does it lie on a medium of the ticket, so that it can be chosen there? */
export const isOfTicket = ({ medium }: Pick<Found, "medium">): boolean => medium > 0;

/** A find as the screens have it: with the medium it lies on. */
export interface Found extends Find {
  /** The medium's number, a colon, the find's own id. */
  readonly key: string;
  readonly medium: number;
  /** Keys of the others that hold the same bytes. */
  readonly places: readonly string[];
}

/** An answer without its rows: they stay in the worker and are asked for by window. */
export interface AnswerView extends Omit<Answer, "rows"> {
  readonly total: number;
  readonly generation: number;
}

/** How much answers a want: files, and people's data. */
export interface WantCount {
  /** Files that answer it fully: of its kinds and days, and called by its words. */
  readonly files: number;
  /** Where no file is called by its words: those of its kinds and days. 0 where some are, or nothing is asked by words. */
  readonly loose: number;
  readonly people: number;
}

export interface TraySum {
  readonly count: number;
  readonly bytes: number;
  readonly kinds: Partial<Record<Find["kind"], number>>;
  readonly damaged: number;
  /** Of what people mean by rows: messages, contacts, calls, dates. */
  readonly people: Partial<Record<RecordKind, number>>;
}
