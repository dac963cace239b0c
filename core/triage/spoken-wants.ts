import { WANTED, type Want } from "./intake.ts";

/** What people ask for with somebody: there a name behind "with" or "from" is a person's. */
const WITH_PEOPLE: ReadonlySet<string> = new Set(["contacts", "messages", "chats", "calls", "calendar"]);
const KIND = new RegExp(`^(${WANTED.slice(1).join("|")})\\b\\s*`, "i");
const MONTHS = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];
const MONTH = `(${MONTHS.join("|")})[a-z]*\\.?`;
/** "2–9 May 2026", "2 May", "of May": the year may be left out. */
const DAYS = new RegExp(`(?:(\\d{1,2})\\s*(?:[–—-]|to)\\s*)?(\\d{1,2})\\s+${MONTH}(?:\\s+(\\d{4}))?(?!\\w)`, "i");
const WHOLE_MONTH = new RegExp(`(?:of|in)\\s+${MONTH}(?:\\s+(\\d{4}))?$`, "i");

/** Wants as a line of text lists them, separated by commas, semicolons or line ends: a kind that stands first, days, with whom; all else is words. */
export const wantsFromText = (text: string, today = new Date()): Want[] =>
  text
    .split(/[,;\n]/)
    .map((said) => said.trim())
    .filter(Boolean)
    .map((said) => wantOf(said, today));

function wantOf(said: string, today: Date): Want {
  const spoken = KIND.exec(said);
  const kind = WANTED.find((one) => one === spoken?.[1].toLowerCase()) ?? "any kind";
  const behind = spoken ? said.slice(spoken[0].length) : said;
  const { from, to, rest } = daysIn(behind, today);
  const who = WITH_PEOPLE.has(kind) ? (/^(?:with|from|to)\s+(.+)$/i.exec(rest)?.[1] ?? "") : "";
  const words = who ? "" : rest.replace(/^(?:of|about|with|from)\s+/i, "");
  return { kind, from, to, who: who.slice(0, 200), words: words.slice(0, 200) };
}

/** The days that a text names, and the text without them. Days that no calendar has are words. */
function daysIn(text: string, today: Date): { from: string | null; to: string | null; rest: string } {
  const days = DAYS.exec(text);
  const whole = days ? null : WHOLE_MONTH.exec(text);
  const none = { from: null, to: null, rest: text };
  if (!days && !whole) return none;
  const [first, last, month, year] = days
    ? [Number(days[1] ?? days[2]), Number(days[2]), days[3], days[4]]
    : [1, Number.NaN, whole?.[1] ?? "", whole?.[2]];
  const number = MONTHS.indexOf(month.toLowerCase().slice(0, 3));
  const at = (of: number, day: number) => new Date(Date.UTC(of, number, day));
  // Without a year it is the last time that there was such a day.
  const wanted = year ? Number(year) : at(today.getUTCFullYear(), first) > today ? today.getUTCFullYear() - 1 : today.getUTCFullYear();
  const [from, to] = [at(wanted, first), Number.isNaN(last) ? new Date(Date.UTC(wanted, number + 1, 0)) : at(wanted, last)];
  if (from.getUTCMonth() !== number || to.getUTCMonth() !== number || from > to) return none;
  const rest = text
    .replace((days ?? whole)?.[0] ?? "", " ")
    .replace(/\s+/g, " ")
    .trim();
  const day = (date: Date) => date.toISOString().slice(0, 10);
  return { from: day(from), to: day(to), rest };
}
