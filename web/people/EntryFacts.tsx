import type { ReactNode } from "react";
import { Link } from "react-router";
import { useJob, useSession, useSessionState } from "../session/use-session.ts";
import { useWantsOf } from "../session/use-wants-of.ts";
import { ConditionCells, StateShape } from "../shared/Marks.tsx";
import { hex } from "../shared/words.ts";
import type { PersonEntry } from "../worker/finds/people-desk.ts";

interface Props {
  readonly entry: PersonEntry;
  readonly title: string;
  readonly children: ReactNode;
  /** What it said before. */
  readonly past?: ReactNode;
  /** Ways on from it. */
  readonly more?: ReactNode;
}

/** Beside an entry: what it is, why we think so, its rows, and the way into the tray. */
export function EntryFacts({ entry, title, children, past, more }: Props) {
  const { id } = useJob();
  const session = useSession();
  const isChosen = useSessionState(({ tray }) => tray.has(entry.key));
  const wants = useWantsOf(entry.key);
  const [first] = entry.evidence;
  return (
    <aside className="panel flex w-72 shrink-0 flex-col" aria-label={title}>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls */}
      <div className="flex min-h-0 flex-1 flex-col gap-3 overflow-y-auto p-4" role="group" aria-label="What it is" tabIndex={0}>
        <h2 className="font-bold [overflow-wrap:anywhere]">{title}</h2>
        <p className="flex items-center gap-3 text-sm">
          <span className="flex items-center gap-1.5">
            <StateShape state={entry.state} /> {entry.state}
          </span>
          <span className="flex items-center gap-1.5">
            <ConditionCells condition={entry.condition} /> {entry.condition}
          </span>
        </p>
        <dl className="grid grid-cols-[auto_1fr] gap-x-3 gap-y-1 text-sm">
          {wants.map((words) => (
            <Fact key={words} name="answers">
              {words}
            </Fact>
          ))}
          {children}
        </dl>
        {past}
        {first && (
          <div className="border-t border-dashed border-line pt-3 text-sm">
            <h3 className="font-bold">Why we think so</h3>
            {entry.evidence.map(({ what, page, file, at }) => (
              <p key={`${file} ${at}`} className="text-second">
                {EVIDENCE[what] ?? what}
                {page === null ? "" : `, page ${page}`}
                {what !== ASKED && (
                  <>
                    , at <span className="font-mono">{hex(at)}</span>
                  </>
                )}
                {file === "main" ? "" : ` of its ${file === "wal" ? "log" : "journal"}`}
              </p>
            ))}
            {(entry.rows?.length ?? 0) > 1 && <p className="text-second">Put together from {entry.rows?.length} rows.</p>}
            {entry.store === "proposed" && (
              <p className="mt-1">Read as its tables look: nobody told Jubar how this app keeps its messages.</p>
            )}
          </div>
        )}
      </div>
      {/* What is done with it stays in sight, however much is to be said of it. */}
      <div className="flex shrink-0 flex-col gap-1.5 border-t border-line p-3 [&_.button]:h-8 [&_.button]:text-sm">
        {more}
        {entry.database !== null && (
          <Link to={`/ticket/${id}/tables/${encodeURIComponent(`${entry.medium}:${entry.database}`)}`} className="button">
            Show the tables
          </Link>
        )}
        <button
          type="button"
          className={`button ${isChosen ? "" : "button-lamp"}`}
          onClick={() => void session.choose([entry.key], !isChosen)}
        >
          {isChosen ? "Take out of the tray" : "Choose"}
        </button>
      </div>
    </aside>
  );
}

export function Fact({ name, children }: { name: string; children: ReactNode }) {
  return (
    <>
      <dt className="text-second">{name}</dt>
      <dd className="[overflow-wrap:anywhere]">{children}</dd>
    </>
  );
}

/** Evidence of what no file holds: a phone was asked. */
const ASKED = "the phone's own provider";
/** Where a row was read, in words. */
const EVIDENCE: Readonly<Record<string, string>> = {
  live: "A row that is in place",
  "freelist page": "A row on a page that is free now",
  freeblock: "A row in a freed cell",
  unallocated: "A row in space that no cell uses",
  wal: "A row in an older page of the log",
  journal: "A row in an older page of the journal",
  "stray page": "A row on a page that lies by itself",
  [ASKED]: "As the phone's own provider told it",
};
