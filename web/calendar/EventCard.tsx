import type { EventValues } from "../../core/finds/record.ts";
import { EntryFacts, Fact } from "../people/EntryFacts.tsx";
import { dayWords, momentWords } from "../people/people-words.ts";
import { plural } from "../shared/words.ts";
import type { PersonEntry } from "../worker/finds/people-desk.ts";

/** When something begins: a whole day by its day. */
export const when = ({ start, allDay }: EventValues): string => (allDay ? dayWords(start) : momentWords(start));

const EVERY: Readonly<Record<string, string>> = { DAILY: "every day", WEEKLY: "every week", MONTHLY: "every month", YEARLY: "every year" };
/** How it is repeated (RFC 5545 §3.3.10), as far as a few words tell it; else the rule itself. */
function repeatWords(rrule: string): string {
  const parts = new Map(rrule.split(";").map((part) => part.split("=", 2) as [string, string]));
  const every = EVERY[parts.get("FREQ") ?? ""];
  const plain = [...parts.keys()].every((name) => ["FREQ", "COUNT", "UNTIL", "WKST"].includes(name));
  if (!every || !plain) return rrule;
  const count = parts.get("COUNT");
  return count ? `${every}, ${count} times` : every;
}

/** All that is known of a date. */
export function EventCard({ entry }: { entry: PersonEntry }) {
  const values = entry.values as EventValues;
  const { title, place, description, end, allDay, rrule, reminders = [], attendees = [] } = values;
  return (
    <EntryFacts entry={entry} title={title || "Without a title"}>
      <Fact name="from">{when(values)}</Fact>
      {end && <Fact name="to">{allDay ? dayWords(end) : momentWords(end)}</Fact>}
      {rrule && <Fact name="repeated">{repeatWords(rrule)}</Fact>}
      {reminders.map((minutes) => (
        <Fact key={minutes} name="reminder">
          {minutes === 0 ? "when it begins" : `${plural(minutes, "minute")} before`}
        </Fact>
      ))}
      {place && <Fact name="where">{place}</Fact>}
      {description && <Fact name="about">{description}</Fact>}
      {attendees.map(({ name, address }) => (
        <Fact key={`${name} ${address}`} name="guest">
          {[name, address].filter(Boolean).join(", ")}
        </Fact>
      ))}
    </EntryFacts>
  );
}
