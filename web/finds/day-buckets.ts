import type { Answer, DayCount } from "../../core/finds/find-index.ts";

/** Bars that fit on the screen's width, and the fewest that look like an axis. */
const MOST_BARS = 150;
const FEWEST_BARS = 14;

/** A bar: `days` days from `from` on. */
export interface Bucket {
  readonly from: number;
  readonly days: number;
  readonly erased: number;
  readonly others: number;
}

/** Days gathered into as many bars as fit over the span: single days where they can be. */
export function bucketsOf(days: readonly DayCount[], span: Answer["span"]): Bucket[] {
  if (!span) return [];
  const width = Math.ceil((span.last - span.first + 1) / MOST_BARS);
  const bars = Math.max(FEWEST_BARS, Math.ceil((span.last - span.first + 1) / width));
  const buckets = Array.from({ length: bars }, (_, index) => ({ from: span.first + index * width, days: width, erased: 0, others: 0 }));
  for (const { day, erased, others } of days) {
    const bucket = buckets[Math.floor((day - span.first) / width)];
    if (!bucket) continue;
    bucket.erased += erased;
    bucket.others += others;
  }
  return buckets;
}
