import type { EventValues } from "../finds/record.ts";
import { isoOf, type StoreRow, type StoreTable } from "./gathered.ts";
import { type Entry, entryOf, onceEach, type Store } from "./store.ts";

/** A duration as RFC 5545 §3.3.6 has it, and as the provider writes it (P3600S). @returns milliseconds */
export function durationOf(text: string | undefined): number | undefined {
  const parts = /^([+-])?P(?:(\d+)W)?(?:(\d+)D)?T?(?:(\d+)H)?(?:(\d+)M)?(?:(\d+)S)?$/.exec(text ?? "");
  if (!parts) return undefined;
  const [weeks, days, hours, minutes, seconds] = parts.slice(2).map((part) => Number(part ?? 0));
  const all = (((weeks * 7 + days) * 24 + hours) * 60 + minutes) * 60 + seconds;
  return (parts[1] === "-" ? -1 : 1) * all * 1000;
}

const attendeesOf = (attendees: StoreTable | null, event: StoreRow): EventValues["attendees"] => {
  const id = event.row.rowid;
  if (!attendees || id === null) return undefined;
  const rows = attendees.find("event_id", id).filter((row) => row.isThere || !event.isThere);
  const seen = new Set<string>();
  return rows.flatMap((row) => {
    const address = attendees.text(row, "attendeeEmail") ?? "";
    const name = attendees.text(row, "attendeeName") || undefined;
    // Copies of one row in older pages are one guest.
    const key = `${row.row.rowid ?? ""} ${address} ${name}`;
    if (seen.has(key) || (address === "" && name === undefined)) return [];
    seen.add(key);
    return [{ ...(name && { name }), address }];
  });
};

/** CalendarContract.Reminders.MINUTES; -1 stands for the calendar's own default. */
function remindersOf(reminders: StoreTable | null, event: StoreRow): EventValues["reminders"] {
  const rows = event.row.rowid === null ? [] : (reminders?.find("event_id", event.row.rowid) ?? []);
  const minutes = rows.flatMap((row) => (row.isThere || !event.isThere ? (reminders?.number(row, "minutes") ?? []) : []));
  const known = [...new Set(minutes)].filter((one) => one >= 0);
  return known.length > 0 ? known : undefined;
}

/** The calendar (Android Open Source Project, CalendarContract: Events, Attendees, Calendars). */
export const CALENDAR: Store = {
  name: "calendar",
  read(gathered) {
    const events = gathered.table("Events", "dtstart", "title", "calendar_id");
    if (!events) return [];
    const calendars = gathered.table("Calendars", "visible");
    const attendees = gathered.table("Attendees", "event_id");
    const reminders = gathered.table("Reminders", "event_id", "minutes");
    const entries = events.rows.flatMap((row): Entry[] => {
      const start = events.number(row, "dtstart");
      const title = events.text(row, "title");
      if (start === undefined && title === undefined) return [];
      const allDay = events.number(row, "allDay") === 1;
      const length = durationOf(events.text(row, "duration"));
      const end = events.number(row, "dtend") ?? (start !== undefined && length !== undefined ? start + length : undefined);
      const when = (time: number | undefined) => (allDay ? isoOf(time)?.slice(0, 10) : isoOf(time));
      const values: EventValues = {
        uid: events.text(row, "uid2445") || events.text(row, "_sync_id") || undefined,
        title,
        place: events.text(row, "eventLocation") || undefined,
        description: events.text(row, "description") || undefined,
        start: when(start),
        end: when(end),
        allDay,
        rrule: events.text(row, "rrule") || undefined,
        attendees: attendeesOf(attendees, row),
        reminders: remindersOf(reminders, row),
      };
      const calendar = calendars?.first("_id", events.get(row, "calendar_id"));
      const isBinned = row.isThere && events.number(row, "deleted") === 1;
      const isHidden = row.isThere && calendar?.isThere && calendars?.number(calendar, "visible") === 0;
      return [entryOf(CALENDAR.name, "event", gathered, [row], values, isBinned ? "binned" : isHidden ? "hidden" : undefined)];
    });
    return onceEach(entries, ({ values }) => {
      const { start, title, place } = values as EventValues;
      return start === undefined ? null : JSON.stringify([start, title, place]);
    });
  },
};
