import { Pencil } from "lucide-react";
import { Link, NavLink } from "react-router";
import { stillOpen } from "../../core/phones/ledger.ts";
import { openAnswers } from "../../core/triage/intake.ts";
import { settled } from "../../core/triage/settled.ts";
import { waysIn } from "../../core/triage/ways.ts";
import type { Job } from "../kept/job.ts";
import { PracticeButton } from "../practice/PracticeButton.tsx";
import { inUse } from "../session/session-state.ts";
import { useJob, useMedia, useSessionState } from "../session/use-session.ts";
import { count, plural } from "../shared/words.ts";
import { Lamp } from "./Lamp.tsx";
import { findsOf, standingWords } from "./scan-words.ts";
import { ThemeSwitch } from "./ThemeSwitch.tsx";
import { useStanding } from "./use-standing.ts";
import { WantChips } from "./WantChips.tsx";

function ledgerWords(ledger: Job["ledger"]): string {
  const open = stillOpen(ledger).length;
  return open > 0 ? `${open} to take back` : ledger.length > 0 ? "nothing left open" : "nothing changed";
}

/** How much was found: files, and of what was written between people how many conversations. */
const foundWords = (files: number, conversations: number): string =>
  conversations === 0 ? count(files) : `${count(files)} · ${plural(conversations, "conversation")}`;

/** Whose is this, what do they want, where are we? */
export function TicketStrip() {
  const job = useJob();
  const media = inUse(useMedia());
  const standing = useStanding(media);
  const found = useSessionState((state) => (state.behind ?? state).answer?.all);
  const conversations = useSessionState(({ people }) => people.counts.conversation);
  const tray = useSessionState((state) => state.traySum.count);
  const handOver = useSessionState((state) => state.handOver);
  const openWays = waysIn(job.intake, job.facts).filter(({ standing }) => standing === "open").length;
  const open = openAnswers(settled(job.intake, job.facts)).length;
  const given = handOver.busy
    ? `writing, ${handOver.news?.written ?? 0} of ${tray}`
    : job.handedOver
      ? `${job.handedOver.equal} of ${job.handedOver.files} given back`
      : tray > 0
        ? `${count(tray)} in tray`
        : "nothing chosen";
  const stations = [
    { to: "intake", name: "Intake", state: open === 0 ? "complete" : `${plural(open, "answer")} open` },
    { to: "ways-in", name: "Ways in", state: openWays === 0 ? "none open yet" : `${openWays} open` },
    { to: "scan", name: "Copy & scan", state: standingWords(standing) },
    { to: "finds", name: "Finds", state: foundWords(found ?? findsOf(standing), conversations) },
    { to: "hand-over", name: "Hand-over", state: given },
    { to: "logbook", name: "Logbook", state: ledgerWords(job.ledger) },
  ];
  return (
    <header className="shrink-0 print:hidden">
      <div className="flex h-14 items-center gap-4 border-b border-line bg-base-100 px-5">
        <Link
          to="/"
          className="flex items-center gap-2 rounded-field text-second hover:text-ink"
          aria-label="To the bench"
          title="To the bench"
        >
          <Lamp className="size-7" />
        </Link>
        <p className="flex flex-col items-center border-r-2 border-dashed border-line pr-4 leading-tight">
          <span className="text-xs text-second">ticket</span>
          <span className="font-mono text-xl font-bold">{job.number}</span>
        </p>
        <div className="min-w-0 leading-tight">
          <p className="truncate font-bold">{job.customer || "Customer not noted yet"}</p>
          <p className="truncate text-[13.5px] text-second">{job.device || media[0]?.medium.name || "Device not noted yet"}</p>
        </div>
        <Link to="intake" className="button h-8 w-8 px-0" aria-label="Change the ticket" title="Change the ticket">
          <Pencil className="size-4" aria-hidden="true" />
        </Link>
        <WantChips />
        <div className="ml-auto flex gap-2">
          <PracticeButton />
          <ThemeSwitch />
        </div>
      </div>
      <nav className="flex h-12 items-stretch border-b border-line bg-base-300 px-3" aria-label="Stations">
        {stations.map(({ to, name, state }) => (
          <NavLink key={to} to={to} className="relative flex flex-col justify-center px-5 leading-tight">
            {({ isActive }) => (
              <>
                {isActive && <span className="pool absolute inset-x-1 -bottom-5 h-14" aria-hidden="true" />}
                {isActive && <span className="absolute inset-x-5 bottom-0 h-[3px] rounded-full bg-neutral" aria-hidden="true" />}
                <span className="relative font-bold">{name}</span>
                <span className="relative text-[13px]">{state}</span>
              </>
            )}
          </NavLink>
        ))}
      </nav>
    </header>
  );
}
