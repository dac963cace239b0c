import { ArrowRight } from "lucide-react";
import { Link } from "react-router";
import type { Way } from "../../core/triage/ways.ts";
import { NeedMark } from "./NeedMark.tsx";

const STANDING: Record<Way["standing"], string> = {
  open: "This way is open.",
  unclear: "Something is not known yet: ask, or look.",
  closed: "This way is closed: something it needs is missing.",
  pointless: "This way has no use here.",
};
const RISK: Record<Way["risk"], string> = {
  none: "none",
  low: "low",
  some: "some: read the steps first",
  high: "high: a wrong image can end the phone",
};

/** The chosen way: what it needs, reaches, changes and risks, then its steps. */
export function ChosenWay({ way }: { way: Way }) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls
    <section className="panel flex min-h-0 flex-col overflow-y-auto p-4" aria-label={way.name} tabIndex={0}>
      <h2 className="text-lg font-bold">{way.name}</h2>
      <p className="text-second">{STANDING[way.standing]}</p>
      <ul className="mt-2 flex flex-col gap-1" aria-label="Needs">
        {way.needs.map((need) => (
          <li key={need.what}>
            <NeedMark need={need} />
          </li>
        ))}
      </ul>
      <dl className="mt-3 grid grid-cols-[4.5rem_1fr] gap-x-3 gap-y-1 border-t border-dashed border-line pt-3 text-sm [&_dt]:text-second">
        <dt>reaches</dt>
        <dd>{way.reaches}</dd>
        <dt>changes</dt>
        <dd>{way.changes}</dd>
        <dt>risk</dt>
        <dd>{RISK[way.risk]}</dd>
        <dt>time</dt>
        <dd>
          {way.minutes[0]} to {way.minutes[1]} minutes until its storage can be read
        </dd>
      </dl>
      <ol className="mt-4 flex flex-col gap-2.5" aria-label="Steps">
        {way.steps.map((step, index) => (
          <li key={step} className="flex gap-3">
            <span
              className="flex size-7 shrink-0 items-center justify-center rounded-full border-2 border-line font-bold"
              aria-hidden="true"
            >
              {index + 1}
            </span>
            <span className="pt-0.5">{step}</span>
          </li>
        ))}
      </ol>
      {way.id === "card" && (
        <Link to="../scan" className="button button-main mt-4 self-start">
          To Copy & scan <ArrowRight className="size-4" aria-hidden="true" />
        </Link>
      )}
    </section>
  );
}
