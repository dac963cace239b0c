import { ArrowRight } from "lucide-react";
import { Link } from "react-router";
import { isReadable } from "../../core/phones/states.ts";
import { CONSENT, type Way } from "../../core/triage/ways.ts";
import { peopleWanted } from "../../core/wants/questions.ts";
import { usePhone } from "../phones/phones.ts";
import { useJob } from "../session/use-session.ts";
import { Checklist } from "./Checklist.tsx";
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
export function ChosenWay({ way, held }: { way: Way; held: string | null }) {
  const job = useJob();
  const phone = usePhone(job.phone);
  const wantsPeople = job.intake.wants.some((want) => peopleWanted(want) !== null && want.kind !== "any kind");
  const readable = isReadable(phone?.state);
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls
    <section className="panel flex min-h-0 flex-col overflow-y-auto p-4" aria-label={way.name} tabIndex={0}>
      <h2 className="text-lg font-bold">{way.name}</h2>
      <p className="text-second">{STANDING[way.standing]}</p>
      <ul className="mt-2 flex flex-wrap gap-x-4 gap-y-1 text-sm" aria-label="Needs">
        {way.needs.map((need) => (
          <li key={need.what}>
            <NeedMark need={need} />
            {need.what === CONSENT && need.state !== "met" && (
              <Link to="../intake" className="ml-1.5 underline">
                tick it at Intake
              </Link>
            )}
          </li>
        ))}
      </ul>
      <p className="mt-3 border-t border-dashed border-line pt-3 text-[13.5px] text-second">
        A step ticks itself when its turn has come and the phone reports it; what no computer can see is yours to do.
      </p>
      <Checklist key={way.id} steps={way.steps} held={held} />
      {(way.id === "card" || readable) && (
        <div className="my-4 flex flex-wrap gap-2">
          {phone?.state === "ready" && !held && way.id !== "card" && (
            <Link to="../scan" state={{ take: "people" }} className={`button ${wantsPeople ? "button-lamp" : ""}`}>
              Take contacts, messages, calls, calendar
            </Link>
          )}
          <Link to="../scan" className="button button-main">
            To Copy & scan <ArrowRight className="size-4" aria-hidden="true" />
          </Link>
        </div>
      )}
      <dl className="mt-auto grid grid-cols-[4.5rem_1fr] gap-x-3 gap-y-1 border-t border-dashed border-line pt-3 text-sm [&_dt]:text-second">
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
    </section>
  );
}
