import type { Find } from "../../core/finds/find.ts";

const UNITS = ["bytes", "KB", "MB", "GB", "TB"];

/** A size in steps of 1,000, as storage is sold. */
export function bytes(size: number): string {
  if (size < 1000) return `${Math.round(size)} ${Math.round(size) === 1 ? "byte" : "bytes"}`;
  const step = Math.min(UNITS.length - 1, Math.floor(Math.log10(size) / 3));
  const value = size / 1000 ** step;
  return `${value < 10 ? value.toFixed(1) : Math.round(value)} ${UNITS[step]}`;
}

export const count = (value: number): string => value.toLocaleString("en");

export const plural = (value: number, one: string, many = `${one}s`): string => `${count(value)} ${value === 1 ? one : many}`;

/** Seconds in the two largest units. */
export function duration(seconds: number): string {
  const whole = Math.round(seconds);
  if (whole < 60) return `${whole} s`;
  if (whole < 3600) return `${Math.floor(whole / 60)} min ${whole % 60} s`;
  return `${Math.floor(whole / 3600)} h ${Math.floor((whole % 3600) / 60)} min`;
}

/** The device's clock had no zone: its times are shown as they stand. */
const dated = (options: Intl.DateTimeFormatOptions) => new Intl.DateTimeFormat("en-GB", { timeZone: "UTC", ...options });
const LONG_DAY = dated({ weekday: "long", day: "numeric", month: "long", year: "numeric" });
const MOMENT = dated({
  weekday: "short",
  day: "numeric",
  month: "short",
  year: "numeric",
  hour: "2-digit",
  minute: "2-digit",
  second: "2-digit",
});
const SHORT_DAY = dated({ day: "numeric", month: "short" });
const DATED_DAY = dated({ day: "numeric", month: "short", year: "numeric" });

export const DAY = 86_400_000;
export const longDay = (day: number): string => LONG_DAY.format(day * DAY);
export const shortDay = (day: number): string => SHORT_DAY.format(day * DAY);
export const datedDay = (day: number): string => DATED_DAY.format(day * DAY);
export const moment = (time: number): string => MOMENT.format(time);

/** When a job was touched, on this computer's clock. */
export function touched(time: number, now = Date.now()): string {
  const sameDay = new Date(time).toDateString() === new Date(now).toDateString();
  return new Intl.DateTimeFormat("en-GB", sameDay ? { hour: "2-digit", minute: "2-digit" } : { day: "numeric", month: "short" }).format(
    time,
  );
}

export const hex = (offset: number): string => `0x${offset.toString(16).toUpperCase()}`;

/** What a find is called where it has no name. */
export const nameOf = (find: Find): string => find.name ?? `unnamed ${find.format.toUpperCase()}`;
