import { folded, wordsOf } from "../../finds/fold.ts";
import type { FoundRecord, MessageValues, RecordKind, RecordState } from "../../finds/record.ts";
import { WordMatches } from "../../finds/word-matches.ts";
import { momentOf, wordsIn } from "./entry-words.ts";
import type { DayRange, EntryPlace } from "./questions.ts";

const KINDS = ["conversation", "message", "chat", "contact", "call", "event", "media", "row"] as const satisfies readonly RecordKind[];
const STATES = ["present", "binned", "hidden", "erased", "unclear"] as const satisfies readonly RecordState[];
const DAY = 86_400_000;
/** Stands for the state of a row that was forgotten: its number is not used again. */
const GONE = -1;

const numberOfKind = (kind: RecordKind): number => KINDS.indexOf(kind);

/** What entries are filtered and sorted by, row by row in the order in which they came. */
export class EntryColumns {
  readonly places: EntryPlace[] = [];
  readonly #kinds: number[] = [];
  readonly #states: number[] = [];
  /** Moments in milliseconds since 1970, or NaN. */
  readonly times: number[] = [];
  readonly texts: string[] = [];
  readonly #matches = new WordMatches((word) => (row) => this.texts[row].includes(word));
  /** The number of a row's address, or -1; where it has several: all of them. */
  readonly #addresses: number[] = [];
  readonly #more = new Map<number, readonly number[]>();
  /** Rows that carry files, and those before which numbers are skipped. */
  readonly #withFiles = new Set<number>();
  readonly #skipped = new Map<number, number>();

  get length(): number {
    return this.places.length;
  }

  /** @returns the row */
  put(entry: FoundRecord, place: EntryPlace, addresses: readonly number[]): number {
    const row = this.places.push(place) - 1;
    this.#kinds.push(numberOfKind(entry.kind));
    this.#states.push(STATES.indexOf(entry.state));
    this.times.push(momentOf(entry));
    this.texts.push(folded(wordsIn(entry)));
    this.#addresses.push(addresses[0] ?? -1);
    if (addresses.length > 1) this.#more.set(row, addresses);
    if ((entry.values as MessageValues).attachments?.length) this.#withFiles.add(row);
    if (entry.skipped) this.#skipped.set(row, entry.skipped);
    return row;
  }

  forget(row: number): void {
    this.#states[row] = GONE;
  }

  isGone = (row: number): boolean => this.#states[row] === GONE;
  kindOf = (row: number): RecordKind => KINDS[this.#kinds[row]];
  /** Of a row that is not gone. */
  stateOf = (row: number): RecordState => STATES[this.#states[row]];
  hasFiles = (row: number): boolean => this.#withFiles.has(row);
  skippedBefore = (row: number): number => this.#skipped.get(row) ?? 0;
  /** Days since 1970, or NaN. */
  dayOf = (row: number): number => Math.floor(this.times[row] / DAY);
  isIn = (row: number, days: DayRange): boolean => {
    const day = this.dayOf(row);
    // What has no day is of none.
    return days === null || (day >= days.from && day <= days.to);
  };

  /** Is one of a row's addresses among these? */
  isOf(row: number, addresses: ReadonlySet<number>): boolean {
    return addresses.has(this.#addresses[row]) || (this.#more.get(row)?.some((one) => addresses.has(one)) ?? false);
  }

  /** Is it there, of these days, and does it hold all of the words? */
  holding(words: string, days: DayRange): (row: number) => boolean {
    const asked = wordsOf(words);
    const has = asked.length > 0 ? this.#matches.holding(asked, this.length) : null;
    return (row) => !this.isGone(row) && this.isIn(row, days) && (has === null || has(row));
  }
}
