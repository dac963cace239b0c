import { Check, Minus } from "lucide-react";
import { useEffect, useRef } from "react";
import { sightsOf } from "../../core/phones/seen.ts";
import { type Sight, type Step, stepStates } from "../../core/triage/sights.ts";
import { usePhone } from "../phones/phones.ts";
import { useJob, useMedia } from "../session/use-session.ts";
import { CurrentStep } from "./CurrentStep.tsx";

const LOOK = {
  done: "border-primary bg-primary text-primary-content",
  passed: "border-second text-second",
  now: "border-ink bg-accent text-accent-content",
  later: "border-line",
} as const;

/** Steps of a way that tick themselves from what the phone reports. `held`: why nothing may be done to the phone yet. */
export function Checklist({ steps, held }: { steps: readonly Step[]; held: string | null }) {
  const job = useJob();
  const media = useMedia();
  const phone = usePhone(job.phone);
  const seen: Set<Sight> = phone ? sightsOf(phone) : new Set();
  // An image that was put on the bench; a phone's own storage ticks no step of a card.
  if (media.some(({ medium }) => medium.source && medium.part === null)) seen.add("storage is readable");
  const states = stepStates(steps, seen);
  const now = states.indexOf("now");
  // A long way runs over its panel: what is waited for now comes into view by itself.
  const current = useRef<HTMLLIElement>(null);
  const place = `${now} ${phone?.state}`;
  useEffect(() => {
    if (place) current.current?.scrollIntoView({ block: "nearest" });
  }, [place]);
  return (
    <ol className="mt-3 flex flex-col gap-2.5" aria-label="Steps">
      {steps.map((step, index) => {
        const state = states[index];
        return (
          <li
            key={step.words}
            className="flex gap-3"
            aria-current={state === "now" ? "step" : undefined}
            ref={state === "now" ? current : undefined}
          >
            <span className={`flex size-7 shrink-0 items-center justify-center rounded-full border-2 font-bold ${LOOK[state]}`}>
              {state === "done" ? (
                <Check className="size-4" strokeWidth={3} aria-label="done" />
              ) : state === "passed" ? (
                <Minus className="size-4" strokeWidth={3} aria-label="gone through, nothing here can see it" />
              ) : (
                <span aria-hidden="true">{index + 1}</span>
              )}
            </span>
            <div className="min-w-0 flex-1 pt-0.5">
              <p className={state === "now" ? "font-semibold" : ""}>{step.words}</p>
              {state === "now" && (phone || step.does || step.keys) && step.sight !== "storage is readable" && (
                <CurrentStep step={step} phone={phone} held={step.does ? held : null} />
              )}
            </div>
          </li>
        );
      })}
    </ol>
  );
}
