import { daysLeft, easyPlaces } from "../../core/triage/easy-places.ts";
import { forecast } from "../../core/triage/forecast.ts";
import { warnings } from "../../core/triage/warnings.ts";
import { useJob } from "../session/use-session.ts";
import { DAY, shortDay } from "../shared/words.ts";
import { EasyLookHere } from "./EasyLookHere.tsx";

/** What the answers mean: do this now, look here first, what can be expected. Changes as answers come. */
export function Advice() {
  const { intake, facts } = useJob();
  const now = warnings(intake, facts);
  const today = new Date().toISOString().slice(0, 10);
  const { expectations, nothing } = forecast(intake, facts);
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls
    <div className="flex min-h-0 flex-col gap-3 overflow-y-auto" tabIndex={0} role="group" aria-label="What the answers mean">
      {nothing && (
        <section className="rounded-box border-2 border-ink bg-base-100 p-4" aria-label="Nothing to expect">
          <p className="text-lg font-bold">{nothing}</p>
          <p className="mt-1">Tell the customer now, before any long work. A memory card or a backup would change it.</p>
        </section>
      )}
      {now.length > 0 && (
        <section className="rounded-box bg-warning px-4 py-3 text-warning-content" aria-label="Do this now">
          <h2 className="text-lg font-bold">Do this now</h2>
          <ul className="list-disc pl-5">
            {now.map(({ what, why }) => (
              <li key={what}>
                <strong>{what}</strong> <span className="text-[13.5px]">{why}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
      <section className="panel px-4 py-3" aria-label="Look here first">
        <h2 className="text-lg font-bold">
          Look here first <span className="text-sm font-normal text-second">minutes, no risk</span>
        </h2>
        <ul className="mt-1">
          {easyPlaces(intake).map(({ what, until, how }) => (
            <li key={what} className="flex items-baseline justify-between gap-4 py-0.5">
              <span title={how}>{what}</span>
              <span className="text-right whitespace-nowrap">
                {until.length > 0 ? <LastDays until={until} today={today} /> : <span className="text-second">look</span>}
              </span>
            </li>
          ))}
        </ul>
        <EasyLookHere />
      </section>
      <section className="panel px-4 py-3" aria-label="What can be expected">
        <div className="flex items-baseline justify-between">
          <h2 className="text-lg font-bold">What can be expected</h2>
          <span className="text-sm text-second">changes as answers come</span>
        </div>
        <ul className="mt-1">
          {expectations.map(({ kind, place, expected, part, reasons, raises }) => (
            <li key={`${kind} ${place}`} className="grid grid-cols-[7.5rem_1fr] gap-3 border-t border-line py-2">
              <p>
                <strong>{kind}</strong>
                <span className="block text-sm text-second">{place}</span>
              </p>
              <div>
                <p className="flex items-center gap-2.5">
                  <span className="h-2.5 w-28 overflow-hidden rounded-full border border-line" aria-hidden="true">
                    <span className="block h-full bg-primary" style={{ width: `${part * 100}%` }} />
                  </span>
                  <strong>{expected}</strong>
                </p>
                <p className="mt-0.5 text-[13.5px] text-second">{reasons.join("; ")}</p>
                {raises.length > 0 && <p className="text-[13.5px] text-second">would raise it: {raises.join("; ")}</p>}
              </div>
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}

function LastDays({ until, today }: { until: readonly string[]; today: string }) {
  // A day that is past is not one to come: of two spans the longer may be left alone.
  const open = until.filter((day) => daysLeft(day, today) >= 0);
  const words = (days: readonly string[]) => days.map((day) => shortDay(Date.parse(day) / DAY)).join(" or ");
  if (open.length === 0) return <strong>over since {words([[...until].sort()[until.length - 1]])}, most likely</strong>;
  const left = Math.max(...open.map((day) => daysLeft(day, today)));
  return (
    <strong>
      until {words(open)}, {left === 1 ? "1 day" : `${left} days`} left
    </strong>
  );
}
