import { fileNameOf } from "../../core/finds/attached.ts";
import type { AttachmentValues, RecordKind } from "../../core/finds/record.ts";
import { count, moment } from "../shared/words.ts";

/** What kinds of people's data are called, one and several. */
const WORDS: Partial<Record<RecordKind, [string, string]>> = {
  conversation: ["conversation", "conversations"],
  message: ["message", "messages"],
  chat: ["chat message", "chat messages"],
  contact: ["contact", "contacts"],
  call: ["call", "calls"],
  event: ["date", "dates"],
};

/** What stands for a file of a message in few words. */
export const fileWords = (file: AttachmentValues): string => fileNameOf(file) ?? file.type ?? "a file";

export const peopleWords = (counts: Partial<Record<RecordKind, number>>): string[] =>
  (Object.keys(WORDS) as RecordKind[]).flatMap((kind) => {
    const number = counts[kind] ?? 0;
    const words = WORDS[kind];
    return number > 0 && words ? [`${count(number)} ${words[number === 1 ? 0 : 1]}`] : [];
  });

const DAY = new Intl.DateTimeFormat("en-GB", { weekday: "short", day: "numeric", month: "short", year: "numeric", timeZone: "UTC" });
const TIME = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit", timeZone: "UTC" });
/** Moments in UTC, as the databases keep them. */
export const dayWords = (time: number | string | null | undefined): string =>
  time === null || time === undefined ? "no date" : DAY.format(new Date(time));
const SHORT_DAY = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", year: "numeric", timeZone: "UTC" });
export const shortDayWords = (time: number): string => SHORT_DAY.format(new Date(time));
export const clockWords = (time: string | undefined): string => (time === undefined ? "no time" : TIME.format(new Date(time)));
export const momentWords = (time: string | undefined): string => (time === undefined ? "not known" : `${moment(Date.parse(time))} UTC`);

/** The first letters of a name, for a small square beside it. */
export const initials = (name: string): string => {
  // A number has no first letters.
  if (/^[+\d(]/.test(name.trim())) return "";
  const words = name.trim().split(/\s+/);
  const first = (word: string | undefined) => (word === undefined ? "" : (Array.from(word)[0] ?? ""));
  return `${first(words[0])}${words.length > 1 ? first(words.at(-1)) : ""}`.toUpperCase() || "?";
};

/** Seconds as minutes and hours. */
export function lengthWords(seconds: number | undefined): string {
  if (seconds === undefined) return "";
  const [hours, minutes] = [Math.floor(seconds / 3600), Math.floor((seconds % 3600) / 60)];
  const rest = String(seconds % 60).padStart(2, "0");
  return hours > 0 ? `${hours}:${String(minutes).padStart(2, "0")}:${rest}` : `${minutes}:${rest}`;
}
