import type { Value } from "../../sqlite/format/record.ts";
import { keyOf, numberOf } from "../gathered.ts";
import { isAddress, isCode, isFile, isId, isMail, isMedia, isMime, isPersonName, isPhone, isProse, isUrl } from "./looks.ts";
import type { MappedTime } from "./mapping.ts";
import type { Column } from "./source.ts";
import { CLOCKS, type Clock, isPlausible, timeBy, timeOfDay, timeOfText, writtenOut } from "./times.ts";

/** What a column's values are like. Shares are of those that are not empty, each once. */
export interface Profile {
  readonly column: Column;
  /** Values that are known. */
  readonly known: number;
  /** Values that say something: not NULL, no empty text. */
  readonly filled: number;
  readonly distinct: number;
  readonly numbers: number;
  readonly integers: number;
  readonly texts: number;
  readonly blobs: number;
  /** Are all of them bytes of one short length? */
  readonly areIds: boolean;
  readonly prose: number;
  readonly personNames: number;
  readonly addresses: number;
  /** Numbers and addresses with an @: nobody takes them for anything else. */
  readonly reachable: number;
  readonly codes: number;
  readonly mimes: number;
  readonly files: number;
  readonly urls: number;
  readonly media: number;
  readonly meanLength: number;
  readonly least: number;
  readonly most: number;
  readonly clock: (Pick<MappedTime, "unit" | "epoch" | "text"> & { readonly share: number }) | null;
  /** Is it a day without its time? */
  readonly isDay: boolean;
  /** A time of day: its unit, or a text. */
  readonly ofDay: "s" | "ms" | "clock" | null;
}

/** Values of a column that are looked at one by one. */
const MOST_READ = 800;
/** Of a column's values so many must tell a plausible time for it to tell the time. */
const MOSTLY = 0.97;

export function profileOf(column: Column): Profile {
  const { values } = column;
  let known = 0;
  const filled: Value[] = [];
  const keys = new Set<string>();
  for (const value of values) {
    if (value === undefined) continue;
    known++;
    if (value === null || value === "") continue;
    filled.push(value);
    keys.add(keyOf(value) ?? `bytes ${(value as Uint8Array).length}`);
  }
  // What they look like is a matter of the values, each once: the owner's name stands in every second row.
  const once = filled.length > keys.size ? [...new Map(filled.map((value) => [keyOf(value) ?? value, value])).values()] : filled;
  const step = Math.max(1, Math.floor(once.length / MOST_READ));
  const read = once.filter((_, index) => index % step === 0);
  const texts = read.filter((value): value is string => typeof value === "string");
  const blobs = read.filter((value): value is Uint8Array => value instanceof Uint8Array);
  const numbers = read.flatMap((value) => (typeof value === "number" || typeof value === "bigint" ? [Number(value)] : []));
  const share = (count: number) => (read.length > 0 ? count / read.length : 0);
  const of = (looks: (text: string) => boolean) => share(texts.filter(looks).length);
  const clock = clockOf(read, texts);
  const ofDay = timeOfDayIn(texts, numbers, read.length);
  return {
    column,
    known,
    filled: filled.length,
    distinct: keys.size,
    numbers: share(numbers.length),
    integers: share(numbers.filter(Number.isInteger).length),
    texts: share(texts.length),
    blobs: share(blobs.length),
    areIds: blobs.length > 0 && blobs.length === read.length && blobs.every((one) => isId(one) && one.length === blobs[0].length),
    prose: of((text) => isProse(text) && !isFile(text) && !isMime(text)),
    personNames: of(isPersonName),
    addresses: of(isAddress),
    reachable: of((text) => isPhone(text) || isMail(text)),
    codes: of(isCode),
    mimes: of(isMime),
    files: of(isFile),
    urls: of(isUrl),
    media: share(blobs.filter(isMedia).length),
    meanLength: texts.reduce((sum, { length }) => sum + length, 0) / Math.max(1, texts.length),
    least: numbers.length > 0 ? Math.min(...numbers) : Number.NaN,
    most: numbers.length > 0 ? Math.max(...numbers) : Number.NaN,
    clock,
    isDay:
      read.length > 0 &&
      (clock?.text !== undefined || texts.length === read.length) &&
      read.every((value) => /^\d{4}[-./]?\d\d[-./]?\d\d$|^\d{1,2}[./-]\d{1,2}[./-]\d{4}$/.test(writtenOut(value))),
    ofDay,
  };
}

function timeOfDayIn(texts: readonly string[], numbers: readonly number[], count: number): Profile["ofDay"] {
  if (count < 5) return null;
  if (texts.length === count) return texts.every((text) => !Number.isNaN(timeOfDay(text))) ? "clock" : null;
  if (numbers.length < count || numbers.some((one) => one < 0 || !Number.isInteger(one))) return null;
  const most = Math.max(...numbers);
  if (most < 86_400 && most > 3600) return "s";
  return most < 86_400_000 && most > 3_600_000 ? "ms" : null;
}

/** The clock by which nearly all values tell a plausible time. */
function clockOf(read: readonly Value[], texts: readonly string[]): Profile["clock"] {
  if (read.length === 0) return null;
  const shareOf = (times: readonly number[]) => times.filter(isPlausible).length / read.length;
  const digits = texts.length > 0 && texts.every((text) => /^-?\d{1,20}(\.\d+)?$/.test(text));
  const numbers = read.flatMap((value) => (typeof value === "string" && !digits ? [] : (numberOf(value) ?? [])));
  if (numbers.length >= read.length * MOSTLY) {
    for (const clock of CLOCKS) {
      const share = shareOf(numbers.map((one) => timeBy(one, clock)));
      if (share >= MOSTLY && isClock(numbers, clock)) return { ...clock, share };
    }
    return writtenClock(read);
  }
  return writtenClock(read);
}

/** A way to write times out by which nearly all values tell a plausible one: as texts, or as numbers of as many digits. */
function writtenClock(read: readonly Value[]): Profile["clock"] {
  const texts = read.map(writtenOut);
  const isNumber = read.some((value) => typeof value !== "string");
  // Numbers of eight digits are much else: of days none is out of its range.
  if (isNumber && !texts.every((text) => /^20\d{6}(?:\d{4}|\d{6})?$/.test(text))) return null;
  const least = isNumber ? 1 : MOSTLY;
  let best: { text: (typeof WRITTEN)[number]; share: number; span: number } | null = null;
  for (const text of isNumber ? WRITTEN.slice(0, 1) : WRITTEN) {
    const times = texts.map((one) => timeOfText(one, text)).filter(isPlausible);
    const share = times.length / read.length;
    if (share < least) continue;
    // Day and month taken for each other scatter over all the year what was written within weeks.
    const span = times.reduce((most, time) => Math.max(most, time), 0) - times.reduce((first, time) => Math.min(first, time), Infinity);
    if (!best || span < best.span) best = { text, share, span };
  }
  return best && { unit: "ms", epoch: 1970, text: best.text, share: best.share };
}
const WRITTEN = ["iso", "day first", "month first", "rfc 5322", "month named"] as const;

/** Days are small numbers, and much else is: only fractions of them tell the time. */
const isClock = (numbers: readonly number[], { unit }: Clock): boolean => unit !== "day" || numbers.some((one) => !Number.isInteger(one));

/** Is it a kind of thing: few values, each often? */
export const isCategory = (profile: Profile): boolean =>
  profile.distinct >= 2 && profile.distinct <= 24 && profile.filled >= profile.distinct * 3 && profile.prose < 0.5 && profile.blobs < 0.5;

/** How much a column reads as what people write to each other: words, seldom the same twice. */
export function proseScore(profile: Profile): number {
  if (profile.filled < 3 || profile.texts < 0.95 || profile.clock || profile.mimes > 0.2 || profile.files > 0.3 || profile.urls > 0.5)
    return 0;
  const variety = Math.min(1, profile.distinct / Math.max(1, profile.filled) / 0.35);
  const length = Math.min(1, profile.meanLength / 14);
  return profile.prose * variety * length;
}
