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
const ORDERED = /^(\d{1,2})[./-](\d{1,2})[./-](\d{4})(?:,?\s+(\d{1,2}):(\d\d)(?::(\d\d))?)?$/;
const YEAR_FIRST = /^(\d{4})[./](\d\d)[./](\d\d)(?:,?\s+(\d{1,2}):(\d\d)(?::(\d\d))?)?$/;
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
    const zone = /^[+-]/.test(parts[8] ?? "") ? parts[8].replace(":", "") : null;
    const offset = zone ? Number(`${zone[0]}1`) * (Number(zone.slice(1, 3)) * 60 + Number(zone.slice(3, 5))) : 0;
    return Date.UTC(year, month - 1, day, hour, minute, second) + Math.round(fraction) - offset * 60_000;
  }
  const parts = ORDERED.exec(text);
  if (!parts) return Number.NaN;
  const [first, second, year, hour, minute, seconds] = parts.slice(1).map((part) => Number(part ?? 0));
  const [day, month] = form === "day first" ? [first, second] : [second, first];
  if (month < 1 || month > 12 || day < 1 || day > 31) return Number.NaN;
  return Date.UTC(year, month - 1, day, hour, minute, seconds);
}

/** A time of day, in milliseconds since midnight. @returns NaN where it is none */
export function timeOfDay(text: string): number {
  const parts = CLOCK.exec(text);
  if (!parts) return Number.NaN;
  const [hour, minute, second] = parts.slice(1, 4).map((part) => Number(part ?? 0));
  if (hour > 23 || minute > 59 || second > 60) return Number.NaN;
  return ((hour * 60 + minute) * 60 + second) * 1000 + Number((parts[4] ?? "").padEnd(3, "0") || 0);
}

/** The moment that a mapping reads out of values. Undefined: not known, or none. */
export function momentOf(time: Omit<MappedTime, "from">, value: Value | undefined, plus: Value | undefined): number | undefined {
  let at: number | undefined;
  if (time.text) at = typeof value === "string" ? timeOfText(value.trim(), time.text) : undefined;
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
