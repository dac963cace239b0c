import type { EventValues } from "../../core/finds/record.ts";
import { EntryFacts, Fact } from "../people/EntryFacts.tsx";
import { dayWords, momentWords } from "../people/people-words.ts";
import type { PersonEntry } from "../worker/finds/people-desk.ts";

/** When something begins: a whole day by its day. */
export const when = ({ start, allDay }: EventValues): string => (allDay ? dayWords(start) : momentWords(start));

/** All that is known of a date. */
export function EventCard({ entry }: { entry: PersonEntry }) {
  const values = entry.values as EventValues;
  const { title, place, description, end, allDay, attendees = [] } = values;
  return (
    <EntryFacts entry={entry} title={title || "Without a title"}>
      <Fact name="from">{when(values)}</Fact>
      {end && <Fact name="to">{allDay ? dayWords(end) : momentWords(end)}</Fact>}
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
