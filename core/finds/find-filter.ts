import { type Combinations, GONE } from "./combinations.ts";
import { ERASED, type FacetCounts, Fails } from "./facet-counts.ts";
import type { FactTally } from "./fact-table.ts";
import { placesOf } from "./find-class.ts";
import type { FindColumns } from "./find-columns.ts";
import type { Query } from "./find-query.ts";
import type { WordMatches } from "./word-matches.ts";

/** What a question asks of each find beyond what it is of. Nulls and no words filter nothing out. */
export interface OwnFilters {
  readonly days: Query["days"];
  /** Only of this medium, by its place in the list of media, and in this stretch of it. */
  readonly place: { readonly medium: number; readonly from: number; readonly to: number } | null;
  /** By the number of a folder: is it that one, or below it? */
  readonly folders: Uint8Array | null;
  readonly words: readonly string[];
}

/** Arrays of bytes that are used for one question after the other: memory that is asked for anew is cleared anew. */
export class FilterRoom {
  passed = new Uint8Array(1024);
  failed = new Uint8Array(1024);

  /** Both hold so many rows, and are 0 up to there. */
  clear(length: number): void {
    if (this.passed.length < length) [this.passed, this.failed] = [new Uint8Array(length * 2), new Uint8Array(length * 2)];
    this.passed.fill(0, 0, length);
    this.failed.fill(0, 0, length);
  }
}

/**
 * Which of its own filters each row fails, as bits: one column after the other, since a loop that does one thing is many times faster than one that
 * asks each row everything.
 */
function askOwn(
  { days, place, folders, words }: OwnFilters,
  { combination, day, start, folder }: FindColumns,
  length: number,
  { failing, classes, matches }: { failing: Uint16Array; classes: Uint32Array; matches: WordMatches },
  { passed, failed }: FilterRoom,
): void {
  if (days !== null) {
    const { from, to } = days;
    for (let row = 0; row < length; row++) if (day[row] < from || day[row] > to) failed[row] |= Fails.days;
  }
  if (place !== null) {
    const { medium, from, to } = place;
    const isElsewhere = Uint8Array.from(failing, (_, one) => Number(placesOf(classes[one]).medium !== medium));
    for (let row = 0; row < length; row++)
      if (isElsewhere[combination[row]] === 1 || start[row] < from || start[row] >= to) failed[row] |= Fails.place;
  }
  if (folders !== null) for (let row = 0; row < length; row++) if (folders[folder[row]] === 0) failed[row] |= Fails.folder;
  if (words.length > 0) {
    // What fails two filters already counts nowhere, whatever its words are.
    for (let row = 0; row < length; row++) {
      const until = failed[row] | failing[combination[row]];
      passed[row] = (until & (until - 1)) === 0 ? 1 : 0;
    }
    matches.fail(words, length, passed, failed, Fails.words);
    passed.fill(0, 0, length);
  }
}

/** In `failed`: it is in several places, and not counted with those that are in one. None of a row's own filters has this bit. */
const APART = Fails.kind;

/**
 * Which of the first `length` rows pass all filters, and how many there are of each facet. It is nearly the whole cost of an answer: it goes through flat
 * arrays in their order, and counts by combination what it can.
 * @param asked `failing`: filters that each combination fails; `gone`: how many rows are no finds any more
 * @param room its `passed` is 1 for rows that pass then
 * @returns how many rows pass, and the bytes of those of them that are in one place only
 */
export function filterRows(
  columns: FindColumns,
  length: number,
  asked: { combinations: Combinations; failing: Uint16Array; own: OwnFilters; matches: WordMatches; gone: number },
  room: FilterRoom,
  { counts, facts, isGrouped }: { counts: FacetCounts; facts: FactTally; isGrouped: boolean },
): { passing: number; bytes: number } {
  const { combination, group } = columns;
  const { failing, combinations, gone } = asked;
  const { classes } = combinations;
  room.clear(length);
  const { passed, failed } = room;
  askOwn(asked.own, columns, length, { ...asked, classes }, room);
  let apart = 0;
  if (isGrouped)
    for (let row = 0; row < length; row++)
      if (group[row] !== 0 && combination[row] !== GONE) {
        failed[row] |= APART;
        apart++;
      }
  const passes = Uint8Array.from(failing, (fails) => Number(fails === 0));
  /** Rows of each combination that fail nothing of their own. */
  const tally = new Uint32Array(failing.length);
  for (let row = 0; row < length; row++) {
    if (failed[row] !== 0) continue;
    const one = combination[row];
    tally[one]++;
    passed[row] = passes[one];
  }
  counts.all += length - gone - apart;
  let passing = 0;
  for (let one = GONE + 1; one < tally.length; one++) {
    if (tally[one] === 0) continue;
    if (passes[one] === 1) passing += tally[one];
    counts.take(classes[one], failing[one], tally[one]);
    facts.take(combinations.facts[one], failing[one], tally[one]);
  }
  const bytes = countDays(columns, length, { passes, classes, areDaysAsked: asked.own.days !== null }, room, counts);
  for (let row = 0, left = apart; left > 0; row++) {
    if ((failed[row] & APART) === 0) continue;
    left--;
    const one = combination[row];
    const fails = failing[one] | (failed[row] & ~APART);
    counts.takeGrouped(classes[one], fails, group[row], columns.day[row]);
    facts.takeGrouped(combinations.facts[one], fails, group[row]);
    if (fails !== 0) continue;
    passed[row] = 1;
    passing++;
  }
  return { passing, bytes };
}

/** Counts days of what is in one place, with all filters but those of days. @returns bytes of what passes all of them */
function countDays(
  { combination, day, size }: FindColumns,
  length: number,
  { passes, classes, areDaysAsked }: { passes: Uint8Array; classes: Uint32Array; areDaysAsked: boolean },
  { passed, failed }: FilterRoom,
  counts: FacetCounts,
): number {
  const { days, firstDay } = counts;
  const isOther = Uint8Array.from(passes, (_, one) => Number(placesOf(classes[one]).state !== ERASED));
  let bytes = 0;
  for (let row = 0; row < length; row++) {
    if (passed[row] === 1) bytes += size[row];
    else if (!areDaysAsked || failed[row] !== Fails.days || passes[combination[row]] === 0) continue;
    const other = isOther[combination[row]];
    const at = (day[row] - firstDay) * 2 + other;
    if (at >= 0 && at < days.length) days[at]++;
    else counts.countDay(day[row], other === 0);
  }
  return bytes;
}
