import type { EventValues } from "../../core/finds/record.ts";
import { EntryRoom } from "../people/EntryRoom.tsx";
import { StateShape } from "../shared/Marks.tsx";
import type { PersonEntry } from "../worker/finds/people-desk.ts";
import { EventCard, when } from "./EventCard.tsx";

/** What was planned, and when? */
export const CalendarScreen = () => (
  <EntryRoom
    kind="event"
    title="Calendar"
    placeholder="Titles, places and words"
    height={52}
    line={(entry) => <Line entry={entry} />}
    card={(entry) => <EventCard key={entry.key} entry={entry} />}
  />
);

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
