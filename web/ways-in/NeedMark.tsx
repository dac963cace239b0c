import { Check, X } from "lucide-react";
import type { Need } from "../../core/triage/needs.ts";

const LOOK: Record<Need["state"], string> = {
  met: "border-primary bg-primary text-primary-content",
  missing: "border-ink",
  unknown: "border-dashed border-second",
};

/** One thing a way needs: a mark and words, never colour alone. */
export function NeedMark({ need: { what, state } }: { need: Need }) {
  return (
    <span className="inline-flex items-center gap-1.5">
      <span
        className={`flex size-4 shrink-0 items-center justify-center rounded-[4px] border-[1.5px] text-[11px] font-bold ${LOOK[state]}`}
      >
        {state === "met" ? (
          <Check className="size-3" strokeWidth={3} aria-hidden="true" />
        ) : state === "missing" ? (
          <X className="size-3" strokeWidth={3} aria-hidden="true" />
        ) : (
          <span aria-hidden="true">?</span>
        )}
      </span>
      <span>
        {what} <span className="sr-only">{state}</span>
      </span>
    </span>
  );
}
