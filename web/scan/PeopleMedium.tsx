import { isUnderWay } from "../../core/work/work-state.ts";
import { askedOf } from "../kept/kept-scan.ts";
import { PeopleChips } from "../people/PeopleChips.tsx";
import { type MediumState, scanOf } from "../session/session-state.ts";
import { useSession } from "../session/use-session.ts";
import { Warning } from "../shared/Warning.tsx";
import { moment } from "../shared/words.ts";
import { MediumActions } from "./MediumActions.tsx";
import { Troubles } from "./Troubles.tsx";

/** What a phone's own providers told: no storage that is searched, but people's data, all of them present. */
export function PeopleMedium({ state }: { state: MediumState }) {
  const { medium, problem } = state;
  const session = useSession();
  const scan = scanOf(state);
  const because = scan.because ?? problem;
  return (
    <>
      <div className="flex items-center gap-3">
        <h1 className="min-w-0 truncate text-lg font-bold">{medium.name}</h1>
        <span className="ml-auto" />
        <MediumActions state={state} />
      </div>
      <section className="panel flex flex-col gap-3 p-4" aria-label="What the phone told">
        <p role="status">
          {isUnderWay(scan.status) ? "Reading what came…" : scan.status === "done" ? "All of it is read." : "It is not read yet."}{" "}
          <span className="text-second">Asked of the phone's own providers, {moment(medium.addedAt)}.</span>
        </p>
        <div className="flex flex-wrap gap-2">
          <PeopleChips />
        </div>
        <p className="text-[13.5px] text-second">
          They tell what is there, what is hidden and what carries the mark of deletion. What was erased for good stands in their databases
          alone: those need a raw copy or elevated access.
        </p>
        {medium.sha256 && <p className="font-mono text-[13px] break-all text-second">SHA-256 {medium.sha256}</p>}
        {!isUnderWay(scan.status) && scan.status !== "done" && (
          <button
            type="button"
            className="button button-main self-start"
            onClick={() => void session.medium(medium.id)?.start(askedOf(scan))}
          >
            Read it
          </button>
        )}
      </section>
      {because && <Warning>{because}</Warning>}
      <Troubles troubles={scan.troubles} />
    </>
  );
}
