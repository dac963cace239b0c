import type { Value } from "../../sqlite/format/record.ts";
import { numberOf } from "../gathered.ts";
import type { EPOCHS, MappedTime, UNITS } from "./mapping.ts";

export type Unit = (typeof UNITS)[number];
export type Epoch = (typeof EPOCHS)[number];

/** Milliseconds in a unit. */
export const UNIT_MS: Record<Unit, number> = { s: 1000, ms: 1, us: 1e-3, ns: 1e-6, "100ns": 1e-4, day: 86_400_000 };

/** Milliseconds from 1970 back to an epoch. */
export const EPOCH_MS: Record<Epoch, number> = {
  1970: 0,
  2001: Date.UTC(2001, 0, 1),
  1601: Date.UTC(1601, 0, 1),
  1904: Date.UTC(1904, 0, 1),
  1980: Date.UTC(1980, 0, 6),
  // Days of spreadsheets count from 30 December 1899; Julian days from noon of 24 November 4714 before our era ("Date And Time Functions" of SQLite).
  1899: Date.UTC(1899, 11, 30),
  4713: -2_440_587.5 * 86_400_000,
  1: Date.UTC(2001, 0, 1) - 730_485 * 86_400_000,
};

/** Phones have shown no other years than these. */
const FROM = Date.UTC(2006, 0, 1);
const TO = Date.UTC(2037, 0, 1);
export const isPlausible = (time: number): boolean => time >= FROM && time < TO;

export interface Clock {
  readonly unit: Unit;
  readonly epoch: Epoch;
}

/** Ways in which numbers tell time that are in use, the usual first. Their values do not overlap within plausible years, but for days. */
export const CLOCKS: readonly Clock[] = [
  { unit: "ms", epoch: 1970 },
  { unit: "s", epoch: 1970 },
  { unit: "us", epoch: 1970 },
  { unit: "ns", epoch: 1970 },
  { unit: "s", epoch: 2001 },
  { unit: "ms", epoch: 2001 },
  { unit: "us", epoch: 2001 },
  { unit: "100ns", epoch: 1601 },
  { unit: "us", epoch: 1601 },
  { unit: "100ns", epoch: 1970 },
  { unit: "100ns", epoch: 1 },
  // Nanoseconds since 2001 would be a few months of 2021 where 100 ns since the year 1 are all years: those come first.
  { unit: "ns", epoch: 2001 },
  { unit: "s", epoch: 1904 },
  { unit: "ms", epoch: 1904 },
  { unit: "day", epoch: 4713 },
  { unit: "day", epoch: 1899 },
  { unit: "day", epoch: 1970 },
];

export const timeBy = (value: number, { unit, epoch }: Clock): number => value * UNIT_MS[unit] + EPOCH_MS[epoch];

/** Years, months and days of texts. Times without a zone are taken as UTC. */
const ISO = /^(\d{4})-(\d\d)-(\d\d)(?:[T ](\d\d):(\d\d)(?::(\d\d)(?:[.,](\d{1,9}))?)?\s*(Z|[+-]\d\d:?\d\d)?)?$/;
const COMPACT = /^(\d{4})(\d\d)(\d\d)(?:T?(\d\d)(\d\d)(\d\d)?)?(Z)?$/;
/** A time of day behind a day; halves of days as in English. */
const TIME = "(\\d{1,2}):(\\d\\d)(?::(\\d\\d)(?:[.,]\\d{1,9})?)?\\s*([AaPp])?\\.?(?:[Mm]\\.?)?";
const ORDERED = new RegExp(`^(\\d{1,2})[./-](\\d{1,2})[./-](\\d{4})(?:,?\\s+${TIME})?$`);
const YEAR_FIRST = /^(\d{4})[./](\d\d)[./](\d\d)(?:,?\s+(\d{1,2}):(\d\d)(?::(\d\d))?)?$/;
const MONTHS = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];
const WEEKDAY = "(?:[A-Za-z]{3,9}\\.?,?\\s+)?";
const DAY_AND_MONTH = new RegExp(`^${WEEKDAY}(\\d{1,2})\\.?[ -]([A-Za-z]{3,9})\\.?[ -](\\d{4})(?:,?\\s+${TIME})?$`);
const MONTH_AND_DAY = new RegExp(`^${WEEKDAY}([A-Za-z]{3,9})\\.?\\s+(\\d{1,2}),?\\s+(\\d{4})(?:,?\\s+(?:at\\s+)?${TIME})?$`);
/** As asctime of C writes it (ISO/IEC 9899, 7.27.3.1), or with a zone before the year. */
const YEAR_LAST = new RegExp(
  `^${WEEKDAY}([A-Za-z]{3,9})\\.?\\s+(\\d{1,2})\\s+${TIME}\\s+(?:(?:GMT|UTC|Z)?([+-]\\d\\d:?\\d\\d)?\\s+)?(\\d{4})$`,
);
const CLOCK = /^(\d{1,2}):(\d\d)(?::(\d\d)(?:[.,](\d{1,3}))?)?$/;
const RFC_5322 = /^(?:[A-Z][a-z]{2},\s*)?\d{1,2} [A-Z][a-z]{2} \d{4} \d\d:\d\d(?::\d\d)?(?: [+-]\d{4}| GMT)?$/;

/** A text that tells a moment, in milliseconds since 1970. @returns NaN where it does not */
export function timeOfText(text: string, form: NonNullable<MappedTime["text"]>): number {
  if (form === "rfc 5322") return RFC_5322.test(text) ? Date.parse(text) : Number.NaN;
  if (form === "iso") {
    const parts = ISO.exec(text) ?? COMPACT.exec(text) ?? YEAR_FIRST.exec(text);
    if (!parts) return Number.NaN;
    const [year, month, day, hour, minute, second] = parts.slice(1, 7).map((part) => Number(part ?? 0));
    if (month < 1 || month > 12 || day < 1 || day > 31 || hour > 24 || minute > 59 || second > 60) return Number.NaN;
    const fraction = /^\d+$/.test(parts[7] ?? "") ? Number(`0.${parts[7]}`) * 1000 : 0;
    return Date.UTC(year, month - 1, day, hour, minute, second) + Math.round(fraction) - zoneOf(parts[8]);
  }
  if (form === "month named") return timeOfNamed(text);
  const parts = ORDERED.exec(text);
  if (!parts) return Number.NaN;
  const [first, second, year] = parts.slice(1, 4).map(Number);
  const [day, month] = form === "day first" ? [first, second] : [second, first];
  return timeOn(year, month, day, parts.slice(4, 8));
}

/** A day, and what a text says of the time on it: hour, minute, second, half of the day. */
function timeOn(year: number, month: number, day: number, [hours, minutes, seconds, half]: readonly (string | undefined)[]): number {
  const [hour, minute, second] = [hours, minutes, seconds].map((part) => Number(part ?? 0));
  if (!(month >= 1 && month <= 12) || day < 1 || day > 31 || hour > (half ? 12 : 24) || minute > 59 || second > 60) return Number.NaN;
  const inHalf = half ? (hour % 12) + (/p/i.test(half) ? 12 : 0) : hour;
  return Date.UTC(year, month - 1, day, inHalf, minute, second);
}

/** "2 May 2024, 18:03:55", "May 2, 2024 6:03 PM", "Thu May  2 18:03:55 2024". */
function timeOfNamed(text: string): number {
  const monthOf = (name: string) => MONTHS.indexOf(name.slice(0, 3).toLowerCase()) + 1;
  const one = DAY_AND_MONTH.exec(text);
  if (one) return timeOn(Number(one[3]), monthOf(one[2]), Number(one[1]), one.slice(4, 8));
  const other = MONTH_AND_DAY.exec(text);
  if (other) return timeOn(Number(other[3]), monthOf(other[1]), Number(other[2]), other.slice(4, 8));
  const last = YEAR_LAST.exec(text);
  if (!last) return Number.NaN;
  return timeOn(Number(last[8]), monthOf(last[1]), Number(last[2]), last.slice(3, 7)) - zoneOf(last[7]);
}

/** What a zone is ahead of UTC, in milliseconds: "+02:00". */
function zoneOf(zone: string | undefined): number {
  if (!zone || !/^[+-]/.test(zone)) return 0;
  const digits = zone.replace(":", "");
  return Number(`${digits[0]}1`) * (Number(digits.slice(1, 3)) * 60 + Number(digits.slice(3, 5))) * 60_000;
}

/** A time of day, in milliseconds since midnight. @returns NaN where it is none */
export function timeOfDay(text: string): number {
  const parts = CLOCK.exec(text);
  if (!parts) return Number.NaN;
  const [hour, minute, second] = parts.slice(1, 4).map((part) => Number(part ?? 0));
  if (hour > 23 || minute > 59 || second > 60) return Number.NaN;
  return ((hour * 60 + minute) * 60 + second) * 1000 + Number((parts[4] ?? "").padEnd(3, "0") || 0);
}

/** A time that is written out, in letters or as a number of its digits: 20240502, 20240502180355. */
export const writtenOut = (value: Value | undefined): string =>
  typeof value === "string" ? value.trim() : typeof value === "number" || typeof value === "bigint" ? String(value) : "";

/** The moment that a mapping reads out of values. Undefined: not known, or none. */
export function momentOf(time: Omit<MappedTime, "from">, value: Value | undefined, plus: Value | undefined): number | undefined {
  let at: number | undefined;
  if (time.text) at = timeOfText(writtenOut(value), time.text);
  else {
    const number = numberOf(value);
    at = number === undefined ? undefined : exactly(value, number, time);
  }
  if (at === undefined || Number.isNaN(at)) return undefined;
  if (!time.plus) return at;
  if (time.plus.text === "clock") {
    const clock = typeof plus === "string" ? timeOfDay(plus.trim()) : Number.NaN;
    return Number.isNaN(clock) ? undefined : at + clock;
  }
  const more = numberOf(plus);
  return more === undefined ? undefined : at + more * UNIT_MS[time.plus.unit];
}

/** Counts of small units are larger than a number holds exactly: their milliseconds are not. */
function exactly(value: Value | undefined, number: number, clock: Clock): number {
  if (typeof value !== "bigint") return timeBy(number, clock);
  const perMs = BigInt(Math.round(1 / UNIT_MS[clock.unit]));
  return perMs > 0n ? Number(value / perMs) + EPOCH_MS[clock.epoch] : timeBy(number, clock);
}
