import type { RecordCondition, RecordState } from "../../core/finds/record.ts";
import type { PeopleFacets } from "../../core/stores/people/questions.ts";
import { FilterChip } from "../finds/FilterChip.tsx";
import { toggled } from "../finds/filters.ts";
import { ConditionCells, StateShape } from "../shared/Marks.tsx";

const STATES = ["present", "hidden", "binned", "erased", "unclear"] as const satisfies readonly RecordState[];
const CONDITIONS = ["whole", "damaged", "remnant"] as const satisfies readonly RecordCondition[];

/** States and conditions that entries are narrowed to. Empty: all. */
export interface EntryFilter {
  readonly states: readonly RecordState[];
  readonly conditions: readonly RecordCondition[];
}
export const ALL_ENTRIES: EntryFilter = { states: [], conditions: [] };
export const isFiltered = ({ states, conditions }: EntryFilter): boolean => states.length + conditions.length > 0;

interface Props {
  readonly facets: PeopleFacets | null;
  readonly filter: EntryFilter;
  readonly onFilter: (filter: EntryFilter) => void;
}

/** States and conditions of people's data as chips with their counts: those that there are. Where all are whole nothing is said of it. */
export function EntryFilters({ facets, filter, onFilter }: Props) {
  const { states, conditions } = filter;
  const some = CONDITIONS.filter((condition) => (facets?.conditions[condition] ?? 0) > 0 || conditions.includes(condition));
  return (
    <>
      {STATES.filter((state) => (facets?.states[state] ?? 0) > 0 || states.includes(state)).map((state) => (
        <FilterChip
          key={state}
          isOn={states.includes(state)}
          finds={facets?.states[state]}
          onToggle={() => onFilter({ ...filter, states: toggled(states, state) })}
        >
          <StateShape state={state} /> {state}
        </FilterChip>
      ))}
      {(some.length > 1 || conditions.length > 0) && (
        <>
          <span className="w-2" />
          {some.map((condition) => (
            <FilterChip
              key={condition}
              isOn={conditions.includes(condition)}
              finds={facets?.conditions[condition]}
              onToggle={() => onFilter({ ...filter, conditions: toggled(conditions, condition) })}
            >
              <ConditionCells condition={condition} /> {condition}
            </FilterChip>
          ))}
        </>
      )}
    </>
  );
}
