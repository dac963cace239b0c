import type { Find, State } from "../../core/finds/find.ts";
import type { RecordState } from "../../core/finds/record.ts";

/** State is told by a shape and a word: ring = present, half disc = binned, disc = erased, broken ring = hidden, and in longer pieces unclear. */
export function StateShape({ state }: { state: State | RecordState }) {
  return (
    <svg viewBox="0 0 14 14" className="size-3.5 shrink-0" aria-hidden="true">
      <circle
        cx="7"
        cy="7"
        r="5.6"
        fill={state === "erased" ? "currentColor" : "none"}
        stroke="currentColor"
        strokeWidth="2"
        strokeDasharray={state === "unclear" ? "6 2.8" : state === "hidden" ? "3 2.9" : undefined}
      />
      {state === "binned" && <path d="M7 1.4a5.6 5.6 0 0 1 0 11.2z" fill="currentColor" />}
    </svg>
  );
}

const FILLED: Record<Find["condition"], number> = { whole: 5, damaged: 3, "small copy": 1, remnant: 0 };

/** Condition as five small cells, filled as far as it is whole. */
export function ConditionCells({ condition, shown }: { condition: Find["condition"]; shown?: number | null }) {
  const filled =
    condition === "damaged" && shown !== null && shown !== undefined ? Math.max(1, Math.min(4, Math.round(shown * 5))) : FILLED[condition];
  return (
    <span className="inline-flex shrink-0 gap-[2px]" aria-hidden="true">
      {[1, 2, 3, 4, 5].map((cell) => (
        <span key={cell} className={`h-3 w-[7px] rounded-[2px] border border-current ${cell <= filled ? "bg-current" : ""}`} />
      ))}
    </span>
  );
}

/** Both marks with their words, side by side. */
export function StateAndCondition({ find }: { find: Find }) {
  return (
    <>
      <span className="flex items-center gap-1.5">
        <StateShape state={find.state} /> {find.state}
      </span>
      <span className="flex items-center gap-1.5">
        <ConditionCells condition={find.condition} shown={find.shown} /> {find.condition}
      </span>
    </>
  );
}

/** The part of a damaged picture that is lost, hatched, over the picture. `least`: how much of it is seen at least where it is small. */
export function LostPart({ find, least = 0 }: { find: Find; least?: number }) {
  const lost = find.condition === "damaged" && find.shown !== null ? Math.max(least, 1 - find.shown) : 0;
  return lost > 0 && <div className="hatched absolute inset-x-0 bottom-0" style={{ height: `${lost * 100}%` }} title="this part is lost" />;
}
