import { BANDED } from "../../core/finds/bands.ts";
import { CONDITIONS, STATES } from "../../core/finds/find.ts";
import { ANY_BAND } from "../../core/finds/find-query.ts";
import { useMedia, useSession, useSessionState } from "../session/use-session.ts";
import { ConditionCells, StateShape } from "../shared/Marks.tsx";
import { bytes, hex, plural } from "../shared/words.ts";
import { FilterChip } from "./FilterChip.tsx";
import { bandWords } from "./fact-words.ts";
import { toggled } from "./filters.ts";
import { folderWords } from "./folder-words.ts";
import { WallTools } from "./WallTools.tsx";

/** What somebody missed: erased, or in a bin. */
const LOST: readonly (typeof STATES)[number][] = ["erased", "binned"];

/** Second row of filters: states, conditions, a place or a folder that was come from; and how all is laid out. */
export function StateFilters({ tree, facts }: { tree: boolean; facts: boolean }) {
  const session = useSession();
  const query = useSessionState((state) => state.query);
  const answer = useSessionState((state) => state.answer);
  const isLost = query.states.length === LOST.length && LOST.every((one) => query.states.includes(one));
  return (
    <div className="flex flex-wrap items-center gap-2" role="toolbar" aria-label="State and condition">
      <FilterChip
        isOn={isLost}
        finds={answer ? LOST.reduce((sum, one) => sum + answer.states[one], 0) : undefined}
        onToggle={() => void session.ask({ states: isLost ? [] : LOST })}
      >
        lost
      </FilterChip>
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
      {!facts && <FactChips />}
      <p className="sr-only" role="status">
        {answer ? `${plural(answer.total, "find")} · ${bytes(answer.bytes)}` : "counting…"}
      </p>
      <WallTools />
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

/** Facts that are filtered by while their filters are not shown. */
function FactChips() {
  const session = useSession();
  const { formats, bands } = useSessionState((state) => state.query);
  const words = [...formats, ...BANDED.flatMap((fact) => bands[fact].map((band) => bandWords(fact, band)))];
  if (words.length === 0) return null;
  return (
    <button
      type="button"
      className="chip max-w-64"
      aria-pressed
      title={words.join(", ")}
      onClick={() => void session.ask({ formats: [], bands: ANY_BAND })}
    >
      <span className="truncate">{words.join(", ")}</span> ✕
    </button>
  );
}
