import { NavLink } from "react-router";
import type { PeopleCounts } from "../../core/stores/people/questions.ts";
import { useJob, useSessionState } from "../session/use-session.ts";
import { count } from "../shared/words.ts";
import { usePeople } from "./use-people.ts";
import { useProposals } from "./use-proposals.ts";

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
  const words = useSessionState(({ query }) => query.words.trim());
  const hits = usePeople((desk) => (words ? desk.hitsOf(words) : Promise.resolve(null)), words);
  const proposed = useProposals().length;
  // What may be messages is looked at where messages are.
  const isOffered = (kind: keyof PeopleCounts) => kind === "conversation" && proposed > 0;
  return (
    <>
      {ROOMS.filter(([kind]) => counts[kind] > 0 || isOffered(kind)).map(([kind, path, name]) => (
        <NavLink key={kind} to={`/ticket/${id}/finds/${path}`} className={`chip ${isOffered(kind) ? "border-dashed border-ink" : ""}`}>
          {name} <span className="font-mono">{count(counts[kind])}</span>
          {hits && hits[kind] > 0 && (
            <span className="rounded bg-accent px-1 text-sm text-accent-content" title={`“${words}” stands in ${count(hits[kind])}`}>
              {count(hits[kind])} <span className="sr-only">hold the words</span>
            </span>
          )}
          {isOffered(kind) && <span className="text-sm"> · {count(proposed)} to look at</span>}
        </NavLink>
      ))}
    </>
  );
}
