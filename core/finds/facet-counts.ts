import { CONDITIONS, KINDS, STATES } from "./find.ts";
import type { Answer } from "./find-query.ts";

/** Day of finds without any time. */
export const NO_DAY = -0x8000_0000;
export const ERASED = STATES.indexOf("erased");

/** Which filter a row fails: one bit each, so that each facet can leave out its own. */
export const Fails = { kind: 1, state: 2, condition: 4, days: 8, words: 16, place: 32, folder: 64, medium: 128 } as const;

/** What was seen of a group already while a question is answered: one bit for each value of a facet, and these. */
const Seen = { state: KINDS.length, condition: KINDS.length + STATES.length, all: 29, day: 30, shown: 31 } as const;

/** Counts while a question is answered: of each facet with all filters but its own, what is in several places once. */
export class FacetCounts {
  readonly #seen: Uint32Array;
  readonly #kind = new Uint32Array(KINDS.length);
  readonly #state = new Uint32Array(STATES.length);
  readonly #condition = new Uint32Array(CONDITIONS.length);
  #all = 0;
  readonly #media = new Map<number, number>();
  readonly #days = new Map<number, { erased: number; others: number }>();

  constructor(groups: number) {
    this.#seen = new Uint32Array(groups);
  }

  /** Is this the first of its group that is seen so? What has no group always is. */
  #isFirst(group: number, bit: number): boolean {
    if (group === 0) return true;
    const isSeen = (this.#seen[group] >>> bit) & 1;
    this.#seen[group] |= 1 << bit;
    return isSeen === 0;
  }

  /** @returns whether it is shown: it passes all filters, and nothing of its group was shown before */
  take(fails: number, group: number, kind: number, state: number, condition: number, day: number, medium: number): boolean {
    if (this.#isFirst(group, Seen.all)) this.#all++;
    if ((fails & ~Fails.kind) === 0 && this.#isFirst(group, kind)) this.#kind[kind]++;
    if ((fails & ~Fails.state) === 0 && this.#isFirst(group, Seen.state + state)) this.#state[state]++;
    if ((fails & ~Fails.condition) === 0 && this.#isFirst(group, Seen.condition + condition)) this.#condition[condition]++;
    // Each of its places is on a medium of its own: there it is.
    if ((fails & ~Fails.medium) === 0) this.#media.set(medium, (this.#media.get(medium) ?? 0) + 1);
    if ((fails & ~Fails.days) === 0 && day !== NO_DAY && this.#isFirst(group, Seen.day)) this.#count(day, state);
    return fails === 0 && this.#isFirst(group, Seen.shown);
  }

  #count(day: number, state: number): void {
    let count = this.#days.get(day);
    if (!count) {
      count = { erased: 0, others: 0 };
      this.#days.set(day, count);
    }
    if (state === ERASED) count.erased++;
    else count.others++;
  }

  told(): Omit<Answer, "rows" | "span" | "bytes"> {
    const named = <T extends string>(all: readonly T[], column: Uint32Array) =>
      Object.fromEntries(all.map((one, index) => [one, column[index]])) as Record<T, number>;
    return {
      all: this.#all,
      media: this.#media,
      kinds: named(KINDS, this.#kind),
      states: named(STATES, this.#state),
      conditions: named(CONDITIONS, this.#condition),
      days: [...this.#days].map(([day, count]) => ({ day, ...count })).sort((a, b) => a.day - b.day),
    };
  }
}
