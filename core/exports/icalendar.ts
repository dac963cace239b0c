import type { EventValues } from "../finds/record.ts";
import { columnsOf, components, type Entry, type Lacking } from "./components.ts";
import { type ContentLine, plainText } from "./lines.ts";

const LOCAL = /^(\d{4})(\d\d)(\d\d)T(\d\d)(\d\d)(\d\d)(Z?)$/;
const DAY = /^(\d{4})(\d\d)(\d\d)$/;
const DURATION = /^([+-]?)P(?:(\d+)W)?(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?(?:(\d+)S)?)?$/;

/** Milliseconds that a zone is ahead of UTC at an instant. Unknown zones: none. */
function aheadOf(zone: string, instant: number): number {
  try {
    const parts = new Intl.DateTimeFormat("en-US", {
      timeZone: zone,
      hourCycle: "h23",
      year: "numeric",
      month: "numeric",
      day: "numeric",
      hour: "numeric",
      minute: "numeric",
      second: "numeric",
    }).formatToParts(instant);
    const of = (type: string) => Number(parts.find((part) => part.type === type)?.value);
    return Date.UTC(of("year"), of("month") - 1, of("day"), of("hour"), of("minute"), of("second")) - instant;
  } catch {
    return 0;
  }
}

/** An instant of a DATE-TIME (RFC 5545 §3.3.5) in milliseconds: UTC, of a zone, or floating, which is taken as UTC. */
function instantOf({ value, parameters }: ContentLine): number | null {
  const match = LOCAL.exec(value.trim());
  if (!match) return null;
  const [, year, month, day, hour, minute, second, utc] = match;
  const wall = Date.UTC(+year, +month - 1, +day, +hour, +minute, +second);
  const zone = parameters.get("TZID")?.[0];
  if (utc === "Z" || !zone) return wall;
  // Twice: the first guess may lie on the other side of a change of clocks.
  const guess = wall - aheadOf(zone, wall);
  return wall - aheadOf(zone, guess);
}

const dayOf = ({ value }: ContentLine): string | null => {
  const [, year, month, day] = DAY.exec(value.trim()) ?? [];
  return day ? `${year}-${month}-${day}` : null;
};

/** RFC 5545 §3.3.6, in milliseconds. */
function durationOf(text: string): number | null {
  const match = DURATION.exec(text.trim());
  if (!match) return null;
  const [, sign, weeks = 0, days = 0, hours = 0, minutes = 0, seconds = 0] = match;
  const total = ((+weeks * 7 + +days) * 24 + +hours) * 3600 + +minutes * 60 + +seconds;
  return (sign === "-" ? -1 : 1) * total * 1000;
}

function eventOf(lines: readonly ContentLine[]): EventValues {
  const values: EventValues = {};
  const text = (name: string) => {
    const line = lines.find((one) => one.name === name);
    return line ? plainText(line.value).trim() || undefined : undefined;
  };
  values.uid = text("UID");
  values.title = text("SUMMARY");
  values.place = text("LOCATION");
  values.description = text("DESCRIPTION");
  const start = lines.find(({ name }) => name === "DTSTART");
  // A task has the time when it is due instead (§3.8.2.3).
  const end = lines.find(({ name }) => name === "DTEND" || name === "DUE");
  const duration = lines.find(({ name }) => name === "DURATION");
  const day = start && dayOf(start);
  if (day) {
    values.allDay = true;
    values.start = day;
    values.end = (end && dayOf(end)) ?? undefined;
  } else {
    const from = start ? instantOf(start) : null;
    const length = duration ? durationOf(duration.value) : null;
    const to = end ? instantOf(end) : from !== null && length !== null ? from + length : null;
    if (from !== null) values.start = new Date(from).toISOString();
    if (to !== null) values.end = new Date(to).toISOString();
    values.allDay = false;
  }
  const attendees = lines
    .filter(({ name }) => name === "ATTENDEE")
    .map(({ value, parameters }) => ({ name: parameters.get("CN")?.join(","), address: value.replace(/^mailto:/i, "") }));
  if (attendees.length > 0) values.attendees = attendees;
  return values;
}

/** What is read as an entry: events, tasks and journal entries (RFC 5545 §3.6.1–3.6.3). Others that a person may miss are counted. */
const READ = ["VEVENT", "VTODO", "VJOURNAL"];
const COUNTED: Readonly<Record<string, string>> = { VFREEBUSY: "times of being busy" };

/** Entries of a calendar (RFC 5545), those that stand outside of a calendar too. What is no event says so in its column BEGIN. */
export function* readEvents(bytes: Uint8Array, lacking: Lacking): Generator<Entry<EventValues>> {
  const counted = new Map<string, number>();
  for (const { name, lines, at, whole } of components(bytes, [...READ, ...Object.keys(COUNTED)])) {
    const words = COUNTED[name];
    if (words !== undefined) counted.set(words, (counted.get(words) ?? 0) + 1);
    else yield { values: eventOf(lines), columns: { ...(name !== "VEVENT" && { BEGIN: name }), ...columnsOf(lines, lacking) }, at, whole };
  }
  for (const [words, times] of counted) lacking(`${times} ${words} in it are not read`);
}
