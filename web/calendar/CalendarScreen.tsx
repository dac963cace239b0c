import type { EventValues } from "../../core/finds/record.ts";
import { EntryFacts, Fact } from "../people/EntryFacts.tsx";
import { EntryRoom } from "../people/EntryRoom.tsx";
import { dayWords, momentWords } from "../people/people-words.ts";
import { StateShape } from "../shared/Marks.tsx";
import type { PersonEntry } from "../worker/finds/people-desk.ts";

/** What was planned, and when? */
export const CalendarScreen = () => (
  <EntryRoom
    kind="event"
    title="Calendar"
    placeholder="Titles, places and words"
    height={52}
    line={(entry) => <Line entry={entry} />}
    card={(entry) => <Card key={entry.key} entry={entry} />}
  />
);

const when = ({ start, allDay }: EventValues): string => (allDay ? dayWords(start) : momentWords(start));

function Line({ entry }: { entry: PersonEntry }) {
  const values = entry.values as EventValues;
  return (
    <>
      <span className="w-56 shrink-0 text-sm text-second">{when(values)}</span>
      <span className="min-w-0 flex-1 leading-tight">
        <span className="block truncate font-semibold" dir="auto">
          {values.title || "without a title"}
        </span>
        <span className="block truncate text-[13px] text-second" dir="auto">
          {values.place}
        </span>
      </span>
      {entry.state !== "present" && (
        <span className="flex items-center gap-1.5 text-sm">
          <StateShape state={entry.state} /> {entry.state}
        </span>
      )}
    </>
  );
}

function Card({ entry }: { entry: PersonEntry }) {
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
