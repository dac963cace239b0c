import { type Combinations, GONE } from "./combinations.ts";
import { ERASED, type FacetCounts, Fails } from "./facet-counts.ts";
import type { FactTally } from "./fact-table.ts";
import { CLASSES_PER_MEDIUM, placesOf } from "./find-class.ts";
import type { FindColumns } from "./find-columns.ts";
import type { Query } from "./find-query.ts";

/** What a question asks of each find beyond what it is of. Nulls filter nothing out. */
export interface OwnFilters {
  readonly days: Query["days"];
  /** Only of this medium, by its place in the list of media, and in this stretch of it. */
  readonly place: { readonly medium: number; readonly from: number; readonly to: number } | null;
  /** By the number of a folder: is it that one, or below it? */
  readonly folders: Uint8Array | null;
  readonly holds: ((row: number) => boolean) | null;
}

/** Which of its own filters a row fails, as bits. Null: nothing is asked of rows by themselves. */
function ownFails(own: OwnFilters, columns: FindColumns, classes: Uint32Array): ((row: number, fails: number) => number) | null {
  const { days, place, folders, holds } = own;
  if (days === null && place === null && folders === null && holds === null) return null;
  const { combination, day: dayOf, start, folder } = columns;
  const firstOfPlace = place ? place.medium * CLASSES_PER_MEDIUM : 0;
  return (row, ofCombination) => {
    let fails = 0;
    const day = dayOf[row];
    if (days !== null && (day < days.from || day > days.to)) fails |= Fails.days;
    if (place !== null) {
      const found = classes[combination[row]];
      const isOfMedium = found >= firstOfPlace && found < firstOfPlace + CLASSES_PER_MEDIUM;
      if (!isOfMedium || start[row] < place.from || start[row] >= place.to) fails |= Fails.place;
    }
    if (folders !== null && folders[folder[row]] === 0) fails |= Fails.folder;
    // What fails two filters already counts nowhere, whatever its words are.
    const until = fails | ofCombination;
    if (holds !== null && (until & (until - 1)) === 0 && !holds(row)) fails |= Fails.words;
    return fails;
  };
}

/**
 * Which of the first `length` rows pass all filters, and how many there are of each facet. It is nearly the whole cost of an answer: it goes through flat
 * arrays in their order, and counts by combination what it can.
 * @param failing filters that each combination fails
 * @param passed is set to 1 for rows that pass, and was 0 before
 * @returns how many rows pass, and the bytes of those of them that are in one place only
 */
export function filterRows(
  columns: FindColumns,
  length: number,
  { combinations, failing, own }: { combinations: Combinations; failing: Uint16Array; own: OwnFilters },
  passed: Uint8Array,
  { counts, facts, isGrouped }: { counts: FacetCounts; facts: FactTally; isGrouped: boolean },
): { passing: number; bytes: number } {
  const { combination, day, group, size } = columns;
  const { classes } = combinations;
  const isErased = Uint8Array.from(failing, (_, one) => Number(placesOf(classes[one]).state === ERASED));
  const ownOf = ownFails(own, columns, classes);
  /** Rows of each combination that fail nothing of their own. */
  const tally = new Uint32Array(failing.length);
  let all = 0;
  let passing = 0;
  let bytes = 0;
  for (let row = 0; row < length; row++) {
    const one = combination[row];
    if (one === GONE) continue;
    const fails = failing[one];
    const ownFailed = ownOf === null ? 0 : ownOf(row, fails);
    if (isGrouped && group[row] !== 0) {
      counts.takeGrouped(classes[one], fails | ownFailed, group[row], day[row]);
      facts.takeGrouped(combinations.facts[one], fails | ownFailed, group[row]);
      if ((fails | ownFailed) !== 0) continue;
      passed[row] = 1;
      passing++;
      continue;
    }
    all++;
    if (ownFailed === 0) tally[one]++;
    if (fails !== 0) continue;
    if ((ownFailed & ~Fails.days) === 0) counts.countDay(day[row], isErased[one] === 1);
    if (ownFailed !== 0) continue;
    passed[row] = 1;
    passing++;
    bytes += size[row];
  }
  counts.all += all;
  for (let one = GONE + 1; one < tally.length; one++) {
    if (tally[one] === 0) continue;
    counts.take(classes[one], failing[one], tally[one]);
    facts.take(combinations.facts[one], failing[one], tally[one]);
  }
  return { passing, bytes };
}
