import { NavLink } from "react-router";
import type { PeopleCounts } from "../../core/stores/people-index.ts";
import { useJob, useSessionState } from "../session/use-session.ts";
import { count } from "../shared/words.ts";

const ROOMS: readonly (readonly [keyof PeopleCounts, string, string])[] = [
  ["conversation", "conversations", "conversations"],
  ["contact", "contacts", "contacts"],
  ["call", "calls", "calls"],
  ["event", "calendar", "calendar"],
];

/** The ways to what people mean by rows of databases, as far as there is any. */
export function PeopleChips() {
  const { id } = useJob();
  const { counts } = useSessionState(({ people }) => people);
  return (
    <>
      {ROOMS.filter(([kind]) => counts[kind] > 0).map(([kind, path, name]) => (
        <NavLink key={kind} to={`/ticket/${id}/finds/${path}`} className="chip">
          {name} <span className="font-mono">{count(counts[kind])}</span>
        </NavLink>
      ))}
    </>
  );
}
