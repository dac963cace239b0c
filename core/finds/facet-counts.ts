import { CONDITIONS, KINDS, STATES } from "./find.ts";
import { CLASSES_PER_MEDIUM, placesOf } from "./find-class.ts";
import type { Answer, DayCount, FactCounts, Query } from "./find-query.ts";

/** Day of finds without any time. */
export const NO_DAY = -0x8000_0000;
export const ERASED = STATES.indexOf("erased");

/** Days that a clock in use can show: 2000 to 2100. Others must not stretch the axis over a century. */
export const FIRST_SANE = 10_957;
export const LAST_SANE = 47_482;

/** Which filter a row fails: one bit each, so that each facet can leave out its own. */
export const Fails = { kind: 1, state: 2, condition: 4, days: 8, words: 16, place: 32, folder: 64, medium: 128 } as const;

/** Which of these filters finds of each class fail: all that depends on their class alone. */
export function failsOfClasses(query: Query, media: readonly number[]): Uint8Array {
  const isOut = <T>(some: readonly T[], one: T) => some.length > 0 && !some.includes(one);
  return Uint8Array.from({ length: media.length * CLASSES_PER_MEDIUM }, (_, found) => {
    const { medium, kind, state, condition } = placesOf(found);
    return (
      (isOut(query.media, media[medium]) ? Fails.medium : 0) |
      (isOut(query.kinds, KINDS[kind]) ? Fails.kind : 0) |
      (isOut(query.states, STATES[state]) ? Fails.state : 0) |
      (isOut(query.conditions, CONDITIONS[condition]) ? Fails.condition : 0)
    );
  });
}

/** What was seen of a group already while a question is answered: one bit for each value of a facet, and these. */
const Seen = { state: KINDS.length, condition: KINDS.length + STATES.length, all: 29, day: 30, shown: 31 } as const;

/** Counts of each facet with all filters but its own, as flat arrays. */
export class FacetCounts {
  readonly kinds = new Uint32Array(KINDS.length);
  readonly states = new Uint32Array(STATES.length);
  readonly conditions = new Uint32Array(CONDITIONS.length);
  /** By the media's place in the list of them. */
  readonly media: Uint32Array;
  /** Two counts for each day from the first to the last one that any find has: erased things first, then others. */
  readonly days: Uint32Array;
  /** The day that `days` begin with. */
  readonly firstDay: number;
  /** Days that no clock in use can show: a few. */
  readonly #oddDays = new Map<number, { erased: number; others: number }>();
  all = 0;
  readonly #seen: Uint32Array;

  constructor(groups: number, media: number, span: Answer["span"]) {
    this.#seen = new Uint32Array(groups);
    this.media = new Uint32Array(media);
    this.firstDay = span?.first ?? 0;
    this.days = new Uint32Array(span ? 2 * (span.last - span.first + 1) : 0);
  }

  /** Is this the first of its group that is seen so? */
  #isFirst(group: number, bit: number): boolean {
    const isSeen = (this.#seen[group] >>> bit) & 1;
    this.#seen[group] |= 1 << bit;
    return isSeen === 0;
  }

  /** So many finds of a class that fail these filters: each facet counts what fails none but its own. */
  take(found: number, fails: number, count: number): void {
    const { medium, kind, state, condition } = placesOf(found);
    if ((fails & ~Fails.medium) === 0) this.media[medium] += count;
    if ((fails & ~Fails.kind) === 0) this.kinds[kind] += count;
    if ((fails & ~Fails.state) === 0) this.states[state] += count;
    if ((fails & ~Fails.condition) === 0) this.conditions[condition] += count;
  }

  /** A find that is in several places, by its class and what it fails: it counts once, but on each medium. */
  takeGrouped(found: number, fails: number, group: number, day: number): void {
    const { medium, kind, state, condition } = placesOf(found);
    if (this.#isFirst(group, Seen.all)) this.all++;
    if ((fails & ~Fails.medium) === 0) this.media[medium]++;
    if ((fails & ~Fails.kind) === 0 && this.#isFirst(group, kind)) this.kinds[kind]++;
    if ((fails & ~Fails.state) === 0 && this.#isFirst(group, Seen.state + state)) this.states[state]++;
    if ((fails & ~Fails.condition) === 0 && this.#isFirst(group, Seen.condition + condition)) this.conditions[condition]++;
    if ((fails & ~Fails.days) === 0 && this.#isFirst(group, Seen.day)) this.countDay(day, state === ERASED);
  }

  countDay(day: number, isErased: boolean): void {
    if (day >= FIRST_SANE && day <= LAST_SANE) {
      this.days[(day - this.firstDay) * 2 + (isErased ? 0 : 1)]++;
      return;
    }
    if (day === NO_DAY) return;
    const count = this.#oddDays.get(day) ?? { erased: 0, others: 0 };
    if (isErased) count.erased++;
    else count.others++;
    this.#oddDays.set(day, count);
  }

  /** Of a group that passes, only the first place is shown. */
  isShown(group: number): boolean {
    return group === 0 || this.#isFirst(group, Seen.shown);
  }

  told(media: readonly number[]): Omit<Answer, "rows" | "groups" | "span" | "bytes" | keyof FactCounts> {
    const named = <T extends string>(all: readonly T[], column: Uint32Array) =>
      Object.fromEntries(all.map((one, index) => [one, column[index]])) as Record<T, number>;
    const days: DayCount[] = Array.from(this.#oddDays, ([day, count]) => ({ day, ...count }));
    for (let at = 0; at < this.days.length; at += 2)
      if (this.days[at] + this.days[at + 1] > 0)
        days.push({ day: this.firstDay + at / 2, erased: this.days[at], others: this.days[at + 1] });
    return {
      all: this.all,
      media: new Map(media.flatMap((id, index) => (this.media[index] > 0 ? [[id, this.media[index]] as const] : []))),
      kinds: named(KINDS, this.kinds),
      states: named(STATES, this.states),
      conditions: named(CONDITIONS, this.conditions),
      days: days.sort((a, b) => a.day - b.day),
    };
  }
}
