import { LayoutGrid, List } from "lucide-react";
import { CONDITIONS, STATES } from "../../core/finds/find.ts";
import type { Query } from "../../core/finds/find-query.ts";
import { useMedia, useSession, useSessionState } from "../session/use-session.ts";
import { ConditionCells, StateShape } from "../shared/Marks.tsx";
import { bytes, hex, plural } from "../shared/words.ts";
import { FilterChip } from "./FilterChip.tsx";
import { toggled } from "./filters.ts";
import { folderWords } from "./folder-words.ts";

const SORTS: Record<Query["sort"], string> = {
  newest: "newest first",
  oldest: "oldest first",
  name: "name",
  largest: "largest first",
  place: "place on the storage",
};

/** Second row of filters: states, conditions, a place or a folder that was come from; the order, and wall or list. */
export function StateFilters({ tree, look, onLook }: { tree: boolean; look: "wall" | "list"; onLook: () => void }) {
  const session = useSession();
  const query = useSessionState((state) => state.query);
  const answer = useSessionState((state) => state.answer);
  return (
    <div className="flex flex-wrap items-center gap-2" role="toolbar" aria-label="State and condition">
      {STATES.map((state) => (
        <FilterChip
          key={state}
          isOn={query.states.includes(state)}
          finds={answer?.states[state]}
          onToggle={() => void session.ask({ states: toggled(query.states, state) })}
        >
          <StateShape state={state} /> {state}
        </FilterChip>
      ))}
      <span className="w-3" />
      {CONDITIONS.map((condition) => (
        <FilterChip
          key={condition}
          isOn={query.conditions.includes(condition)}
          finds={answer?.conditions[condition]}
          onToggle={() => void session.ask({ conditions: toggled(query.conditions, condition) })}
        >
          <ConditionCells condition={condition} /> {condition}
        </FilterChip>
      ))}
      <PlaceChips tree={tree} />
      <p className="sr-only" role="status">
        {answer ? `${plural(answer.total, "find")} · ${bytes(answer.bytes)}` : "counting…"}
      </p>
      <Order sort={query.sort} />
      <button
        type="button"
        className="button h-8 w-8 px-0"
        aria-label={look === "wall" ? "Show as a list" : "Show as a wall"}
        title={look === "wall" ? "as a list" : "as a wall"}
        onClick={onLook}
      >
        {look === "wall" ? <List className="size-4" aria-hidden="true" /> : <LayoutGrid className="size-4" aria-hidden="true" />}
      </button>
    </div>
  );
}

/** Where one came from: a place on the storage map, a folder that is not shown. */
function PlaceChips({ tree }: { tree: boolean }) {
  const session = useSession();
  const media = useMedia();
  const { place, folder } = useSessionState((state) => state.query);
  return (
    <>
      {place && (
        <button type="button" className="chip" aria-pressed onClick={() => void session.ask({ place: null })}>
          around {hex(place.from)} ✕
        </button>
      )}
      {folder !== null && !tree && (
        <button type="button" className="chip" aria-pressed onClick={() => void session.ask({ folder: null })}>
          in {folderWords(folder, media)} ✕
        </button>
      )}
    </>
  );
}

function Order({ sort }: { sort: Query["sort"] }) {
  const session = useSession();
  return (
    <label className="ml-auto">
      <span className="sr-only">Sort</span>
      <select
        className="h-8 rounded-field border border-line bg-base-100 px-2 font-semibold text-ink"
        value={sort}
        onChange={(event) => void session.ask({ sort: event.target.value as Query["sort"] })}
      >
        {Object.entries(SORTS).map(([one, words]) => (
          <option key={one} value={one}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}
