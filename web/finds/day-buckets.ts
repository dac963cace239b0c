import type { Answer, DayCount } from "../../core/finds/find-query.ts";

/** Bars that fit on the screen's width. */
const MOST_BARS = 150;
/** Months that are named on the axis at most: more of them would run into each other. */
const MOST_MARKS = 16;
const DAY = 86_400_000;

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
  const bars = Math.ceil((span.last - span.first + 1) / width);
  const buckets = Array.from({ length: bars }, (_, index) => ({ from: span.first + index * width, days: width, erased: 0, others: 0 }));
  for (const { day, erased, others } of days) {
    const bucket = buckets[Math.floor((day - span.first) / width)];
    if (!bucket) continue;
    bucket.erased += erased;
    bucket.others += others;
  }
  return buckets;
}

/** Days that are seen at least where some are brushed over. */
const LEAST_SEEN = 28;

/** The part of the span that is seen when days of it are chosen: as much again on both sides, so that there is room to move its ends. */
export function zoomed(range: { readonly from: number; readonly to: number } | null, span: Answer["span"]): Answer["span"] {
  if (!range || !span) return span;
  const chosen = range.to - range.from + 1;
  const room = Math.max(Math.ceil(chosen / 2), Math.ceil((LEAST_SEEN - chosen) / 2));
  const days = Math.min(span.last - span.first + 1, chosen + 2 * room);
  const first = Math.max(span.first, Math.min(range.from - room, span.last - days + 1));
  return { first, last: first + days - 1 };
}

/** A month on the axis: where it begins, 0 to 1, and what it is called. A year stands at its first one. */
export interface MonthMark {
  readonly at: number;
  readonly words: string;
}

const MONTH = new Intl.DateTimeFormat("en-GB", { month: "short", timeZone: "UTC" });

/** The beginnings of months within the bars; of long spans only every so many, each January at least, or years alone. */
export function monthMarks(buckets: readonly Bucket[]): MonthMark[] {
  const last = buckets.at(-1);
  if (!last) return [];
  const from = buckets[0].from;
  const days = last.from + last.days - from;
  const begin = new Date(from * DAY);
  const marks: { day: number; month: number; year: number }[] = [];
  for (let step = 0; marks.length < 12 * 250; step++) {
    const moment = Date.UTC(begin.getUTCFullYear(), begin.getUTCMonth() + step, 1);
    const day = Math.round(moment / DAY);
    if (day >= from + days) break;
    if (day >= from) marks.push({ day, month: new Date(moment).getUTCMonth(), year: new Date(moment).getUTCFullYear() });
  }
  const every = [1, 2, 3, 6, 12, 24, 60, 120, 240].find((months) => marks.length / months <= MOST_MARKS) ?? 600;
  return marks
    .filter(({ month, year }) => (every <= 12 ? month % every === 0 : month === 0 && year % (every / 12) === 0))
    .map(({ day, month, year }) => ({
      at: (day - from) / days,
      words: month === 0 ? String(year) : MONTH.format(Date.UTC(year, month, 1)),
    }));
}
