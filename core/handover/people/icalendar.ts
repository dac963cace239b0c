import type { EventValues, FoundRecord } from "../../finds/record.ts";
import { foldedLine } from "./vcard.ts";

/** RFC 5545 §3.3.11. */
const escaped = (text: string): string =>
  text
    .replace(/[\\,;]/g, "\\$&")
    .replace(/\r\n|\r|\n/g, "\\n")
    .replace(/(?![\t])\p{Cc}/gu, "");
const quoted = (text: string): string => `"${text.replace(/["\p{Cc}]/gu, "")}"`;

/** A moment in UTC (RFC 5545 §3.3.5), or a day (§3.3.4). */
const stamp = (time: string): string => time.replace(/\.\d+/, "").replace(/[-:]/g, "");

/** Parts of a rule, each a name and a value (§3.3.10). */
const RULE = /^[A-Z]+=[A-Z0-9,+-]+(?:;[A-Z]+=[A-Z0-9,+-]+)*$/i;

/** An alarm that is shown so many minutes before (§3.6.6). */
const alarmOf = (minutes: number, title = "Reminder"): string[] => [
  "BEGIN:VALARM",
  "ACTION:DISPLAY",
  `TRIGGER:-PT${Math.max(0, Math.round(minutes))}M`,
  foldedLine(`DESCRIPTION:${escaped(title)}`),
  "END:VALARM",
];

/** Events as a calendar (RFC 5545). `at`: when it is written, in milliseconds since 1970. */
export function icalendarOf(events: readonly FoundRecord[], at: number): string {
  const lines = ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Jubar//what came back//EN", "CALSCALE:GREGORIAN"];
  for (const event of events) {
    const { uid, title, place, description, start, end, allDay, attendees = [], reminders = [], rrule } = event.values as EventValues;
    // An event without its beginning is none (§3.6.1): it stands in the list beside.
    if (!start) continue;
    const time = (name: string, value: string) => (allDay ? `${name};VALUE=DATE:${stamp(value.slice(0, 10))}` : `${name}:${stamp(value)}`);
    lines.push(
      "BEGIN:VEVENT",
      foldedLine(`UID:${escaped(uid ?? `${event.id}@jubar`)}`),
      `DTSTAMP:${stamp(new Date(at).toISOString())}`,
      time("DTSTART", start),
      // An end that is not behind the beginning is none (§3.6.1).
      ...(end && Date.parse(end) > Date.parse(start) ? [time("DTEND", end)] : []),
      ...(rrule && RULE.test(rrule) ? [`RRULE:${rrule}`] : []),
      ...(title ? [foldedLine(`SUMMARY:${escaped(title)}`)] : []),
      ...(place ? [foldedLine(`LOCATION:${escaped(place)}`)] : []),
      ...(description ? [foldedLine(`DESCRIPTION:${escaped(description)}`)] : []),
      ...attendees
        .filter(({ address }) => /^[^\s@]+@[^\s@]+$/.test(address))
        .map(({ name, address }) => foldedLine(`ATTENDEE${name ? `;CN=${quoted(name)}` : ""}:mailto:${address.replace(/\p{Cc}/gu, "")}`)),
      ...reminders.flatMap((minutes) => alarmOf(minutes, title)),
      "END:VEVENT",
    );
  }
  return `${[...lines, "END:VCALENDAR"].join("\r\n")}\r\n`;
}
