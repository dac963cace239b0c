import { useLocation, useNavigate } from "react-router";
import { type Want, wantWords } from "../../core/triage/intake.ts";
import { findsWanted } from "../../core/wants/questions.ts";
import { showAll } from "../finds/filters.ts";
import { isShown, showWant } from "../session/show-want.ts";
import { useJob, useSession, useSessionState } from "../session/use-session.ts";
import { useWantCounts } from "../session/use-want-counts.ts";
import { count } from "../shared/words.ts";

/** What the customer asks for, with how much of it was found; a click shows it. */
export function WantChips() {
  const job = useJob();
  const session = useSession();
  const navigate = useNavigate();
  const wants = job.intake.wants;
  const counts = useWantCounts(wants);
  const query = useSessionState((state) => state.query);
  const isOnWall = useLocation().pathname === `/ticket/${job.id}/finds`;
  if (wants.length === 0) return null;
  const show = (want: Want, isOfFiles: boolean) =>
    isShown(want, query) && isOfFiles && isOnWall ? session.ask(showAll(query)) : showWant(session, want, isOfFiles, navigate);
  return (
    <>
      <span className="text-sm text-second" aria-hidden="true">
        wants
      </span>
      <ul className="-ml-2 flex min-w-0 flex-1 items-center gap-2 overflow-hidden p-1" aria-label="wants">
        {wants.map((want, index) => {
          const found = counts?.[index];
          const files = found ? found.files + found.loose : 0;
          const all = found ? files + found.people : null;
          const isLoose = found && found.loose > 0 && found.people === 0;
          // What asks for both is shown where there is more of it.
          const isOfFiles = findsWanted(want) !== null && (!found || files >= found.people);
          const isOn = isOnWall && isOfFiles && isShown(want, query);
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: wants have no identity of their own.
            <li key={index} className="min-w-0">
              <button
                type="button"
                title={
                  isOn
                    ? "Show everything again"
                    : isLoose
                      ? `No file is called by the words: all of its kind and days are shown`
                      : `Show what answers: ${wantWords(want)}`
                }
                aria-pressed={isOn}
                className={`flex h-8 w-full min-w-0 cursor-pointer items-center gap-2 rounded-l-lg rounded-r-full border px-3 text-sm font-semibold whitespace-nowrap hover:border-ink ${isOn ? "border-ink bg-glow" : "border-line bg-base-200"}`}
                onClick={() => void show(want, isOfFiles)}
              >
                <span
                  className={`size-2 shrink-0 rounded-full border border-line-strong ${all ? "bg-accent" : "bg-base-100"}`}
                  aria-hidden="true"
                />
                <span className="truncate">{wantWords(want)}</span>
                {all !== null && <span className="font-mono font-normal">· {count(all)}</span>}
                {isLoose && <span className="font-normal text-second">none by these words</span>}
              </button>
            </li>
          );
        })}
      </ul>
    </>
  );
}
