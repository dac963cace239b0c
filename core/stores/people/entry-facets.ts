import { FIRST_SANE, LAST_SANE } from "../../finds/facet-counts.ts";
import type { DayCount } from "../../finds/find-query.ts";
import type { EntryColumns } from "./entry-columns.ts";
import type { Narrow, PeopleFacets } from "./questions.ts";

/** Which filter an entry fails: one bit each, so that each facet can leave out its own. */
export const Fails = { states: 1, conditions: 2, days: 4, kinds: 8, files: 16 } as const;

/** Which filters of state, condition and day a row fails. */
export function failing({ states = [], conditions = [], days = null }: Narrow, columns: EntryColumns): (row: number) => number {
  return (row) =>
    (states.length > 0 && !states.includes(columns.stateOf(row)) ? Fails.states : 0) |
    (conditions.length > 0 && !conditions.includes(columns.conditionOf(row)) ? Fails.conditions : 0) |
    (columns.isIn(row, days) ? 0 : Fails.days);
}

/** How many entries there are of each state, condition and day, with all filters but its own. */
export class EntryFacets {
  readonly #columns: EntryColumns;
  readonly #states: { -readonly [K in keyof PeopleFacets["states"]]: number } = {};
  readonly #conditions: { -readonly [K in keyof PeopleFacets["conditions"]]: number } = {};
  #span: PeopleFacets["span"] = null;
  readonly #days = new Map<number, { day: number; erased: number; others: number }>();
  /** The one that was counted last: entries come in the order of their moments, or nearly so. */
  #last = { day: Number.NaN, erased: 0, others: 0 };

  constructor(columns: EntryColumns) {
    this.#columns = columns;
  }

  /** An entry is there, whatever filters it fails. */
  see(row: number): void {
    const day = this.#columns.dayOf(row);
    if (!(day >= FIRST_SANE && day <= LAST_SANE)) return;
    if (this.#span !== null && day >= this.#span.first && day <= this.#span.last) return;
    this.#span = { first: Math.min(day, this.#span?.first ?? day), last: Math.max(day, this.#span?.last ?? day) };
  }

  /** A row, by the filters that it fails. */
  take(row: number, fails: number): void {
    const state = this.#columns.stateOf(row);
    if ((fails & ~Fails.states) === 0) this.#states[state] = (this.#states[state] ?? 0) + 1;
    const condition = this.#columns.conditionOf(row);
    if ((fails & ~Fails.conditions) === 0) this.#conditions[condition] = (this.#conditions[condition] ?? 0) + 1;
    const day = this.#columns.dayOf(row);
    if ((fails & ~Fails.days) !== 0 || Number.isNaN(day)) return;
    if (day !== this.#last.day) {
      this.#last = this.#days.get(day) ?? { day, erased: 0, others: 0 };
      this.#days.set(day, this.#last);
    }
    this.#last[state === "erased" ? "erased" : "others"]++;
  }

  told(): PeopleFacets {
    const days: DayCount[] = [...this.#days.values()].sort((a, b) => a.day - b.day);
    return { states: this.#states, conditions: this.#conditions, days, span: this.#span };
  }
}
