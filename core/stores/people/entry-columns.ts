import { grown } from "../../bytes/grown.ts";
import { Names } from "../../finds/find-columns.ts";
import { folded, wordsOf } from "../../finds/fold.ts";
import type { FoundRecord, MessageValues, RecordCondition, RecordKind, RecordState } from "../../finds/record.ts";
import { TextBlocks } from "../../finds/text-blocks.ts";
import { WordMatches } from "../../finds/word-matches.ts";
import { appOf } from "./app.ts";
import { momentOf, wordsIn } from "./entry-words.ts";
import type { DayRange, EntryPlace } from "./questions.ts";

const KINDS = ["conversation", "message", "chat", "contact", "call", "event", "media", "row"] as const satisfies readonly RecordKind[];
const STATES = ["present", "binned", "hidden", "erased", "unclear"] as const satisfies readonly RecordState[];
const CONDITIONS = ["whole", "damaged", "remnant"] as const satisfies readonly RecordCondition[];
const DAY = 86_400_000;
/** Numbers that say where an entry is kept. */
const PLACE = 4;

const numberOfKind = (kind: RecordKind): number => KINDS.indexOf(kind);

/** Rows that there is room for at first. */
const ROOM = 1024;

/** What entries are filtered and sorted by, row by row in the order in which they came: flat arrays, since a phone may hold a million. */
export class EntryColumns {
  #length = 0;
  #kinds = new Uint8Array(ROOM);
  #states = new Uint8Array(ROOM);
  #conditions = new Uint8Array(ROOM);
  /** Moments in milliseconds since 1970, or NaN. */
  times = new Float64Array(ROOM);
  /** The words of each row, by their number. */
  #said = new Uint32Array(ROOM);
  readonly #texts = new TextBlocks();
  readonly #matches = new WordMatches((word) => (text, known) => this.#texts.learn(word, text, known));
  /** The number of a row's address, or -1; where it has several: all of them. */
  #addresses = new Int32Array(ROOM);
  readonly #more = new Map<number, readonly number[]>();
  /** The app that a message is of, by its number. */
  #apps = new Uint32Array(ROOM);
  readonly #appNames = new Names<string>();
  /** Rows that carry files, and those before which numbers are skipped. */
  readonly #withFiles = new Set<number>();
  readonly #skipped = new Map<number, number>();
  /** Where entries are kept: medium, find by its number, pack, place in it. */
  readonly #finds = new Names<string>();
  #places = new Int32Array(ROOM * PLACE);

  get length(): number {
    return this.#length;
  }

  /** The next row. */
  put(row: number, entry: FoundRecord, place: EntryPlace, addresses: readonly number[]): void {
    this.#length = row + 1;
    this.#reach(row);
    this.place(row, place);
    this.#kinds[row] = numberOfKind(entry.kind);
    this.#states[row] = STATES.indexOf(entry.state);
    this.#conditions[row] = CONDITIONS.indexOf(entry.condition);
    this.times[row] = momentOf(entry);
    this.#said[row] = this.#texts.put(folded(wordsIn(entry)));
    this.#apps[row] = this.#appNames.numberOf(appOf({ ...entry, medium: place.medium }));
    this.#addresses[row] = addresses[0] ?? -1;
    if (addresses.length > 1) this.#more.set(row, addresses);
    if ((entry.values as MessageValues).attachments?.length) this.#withFiles.add(row);
    if (entry.skipped) this.#skipped.set(row, entry.skipped);
  }

  #reach(row: number): void {
    if (row < this.times.length) return;
    const length = row * 2;
    this.#kinds = grown(this.#kinds, new Uint8Array(length));
    this.#states = grown(this.#states, new Uint8Array(length));
    this.#conditions = grown(this.#conditions, new Uint8Array(length));
    this.times = grown(this.times, new Float64Array(length));
    this.#said = grown(this.#said, new Uint32Array(length));
    this.#apps = grown(this.#apps, new Uint32Array(length));
    this.#addresses = grown(this.#addresses, new Int32Array(length));
    this.#places = grown(this.#places, new Int32Array(length * PLACE));
  }

  /** It is kept there now. */
  place(row: number, { medium, find, number, position }: EntryPlace): void {
    this.#places.set([medium, this.#finds.numberOf(find), number, position], row * PLACE);
  }

  placeOf = (row: number): EntryPlace => {
    const [medium, find, number, position] = this.#places.subarray(row * PLACE, (row + 1) * PLACE);
    return { medium, find: this.#finds.at(find), number, position };
  };

  /** The words of a row, folded. */
  textOf = (row: number): string => this.#texts.at(this.#said[row]);
  kindOf = (row: number): RecordKind => KINDS[this.#kinds[row]];
  /** Is a row of one of these kinds? */
  areOf(kinds: readonly RecordKind[]): (row: number) => boolean {
    const wanted = Uint8Array.from(KINDS, (kind) => Number(kinds.includes(kind)));
    const own = this.#kinds;
    return (row) => wanted[own[row]] === 1;
  }
  stateOf = (row: number): RecordState => STATES[this.#states[row]];
  conditionOf = (row: number): RecordCondition => CONDITIONS[this.#conditions[row]];
  /** The app that a row is of, as `appOf` tells it. */
  appAt = (row: number): string => this.#appNames.at(this.#apps[row]);
  hasFiles = (row: number): boolean => this.#withFiles.has(row);
  skippedBefore = (row: number): number => this.#skipped.get(row) ?? 0;
  /** Days since 1970, or NaN. */
  dayOf = (row: number): number => Math.floor(this.times[row] / DAY);
  isIn = (row: number, days: DayRange): boolean => {
    const day = this.dayOf(row);
    // What has no day is of none.
    return days === null || (day >= days.from && day <= days.to);
  };

  /** Is one of a row's addresses one of those that are 1, by their numbers? */
  areTheirs(addresses: Uint8Array): (row: number) => boolean {
    const [first, more] = [this.#addresses, this.#more];
    return (row) => addresses[first[row]] === 1 || (more.get(row)?.some((one) => addresses[one] === 1) ?? false);
  }

  /** Is it of these days, and does it hold all of the words? */
  holding(words: string, days: DayRange): (row: number) => boolean {
    const asked = wordsOf(words);
    const has = asked.length > 0 ? this.#matches.holding(asked, this.#texts.length) : null;
    const said = this.#said;
    if (days === null) return has === null ? () => true : (row) => has(said[row]);
    return (row) => this.isIn(row, days) && (has === null || has(said[row]));
  }
}
