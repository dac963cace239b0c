import { ArrowRight } from "lucide-react";
import { useMemo, useState } from "react";
import { Link, useNavigate } from "react-router";
import { KIND_WORDS, KINDS } from "../../core/finds/find.ts";
import { type Asked, isSameAsked } from "../../core/scan/checkpoint.ts";
import type { Depth } from "../../core/scan/events.ts";
import { asksFor, compared, EVERYTHING_THERE } from "../../core/scan/scope.ts";
import { isUnderWay } from "../../core/work/work-state.ts";
import { askedOf, sumOf } from "../kept/kept-scan.ts";
import type { SourceRef } from "../kept/medium.ts";
import { PeopleChips } from "../people/PeopleChips.tsx";
import { type MediumState, type ShownScan, scanOf } from "../session/session-state.ts";
import { useSession } from "../session/use-session.ts";
import { whyNoErased } from "../session/why-empty.ts";
import { EncryptedNotice } from "../shared/EncryptedNotice.tsx";
import { StateShape } from "../shared/Marks.tsx";
import { bytes, count, plural } from "../shared/words.ts";
import { CopyPanel } from "./CopyPanel.tsx";
import { MediumActions } from "./MediumActions.tsx";
import { NewestFinds } from "./NewestFinds.tsx";
import { Passes } from "./Passes.tsx";
import { Progress } from "./Progress.tsx";
import { ScanControls } from "./ScanControls.tsx";
import { ScopeChoice } from "./ScopeChoice.tsx";
import { StorageMap } from "./StorageMap.tsx";
import { Troubles } from "./Troubles.tsx";
import { usePart } from "./use-part.ts";
import { Volumes } from "./Volumes.tsx";

/** The medium in hand: its scan, what it found, and what is to be known of it. */
export function OpenMedium({ state, source }: { state: MediumState; source: SourceRef }) {
  const { medium, news } = state;
  const scan = scanOf(state);
  const session = useSession();
  const navigate = useNavigate();
  const [chosen, setAsked] = useState<Asked>(askedOf(scan));
  const { depth } = chosen;
  // What was gone over can be added to; at another depth everything is gone over anew.
  const covered = scan.status === "new" || depth !== scan.depth ? null : scan.scope;
  // Another tab may have gone over more since this was chosen: less than that is never asked for.
  const asked = covered && compared(covered, chosen) === "other" ? askedOf(scan) : chosen;
  const { depth: _, ...scope } = asked;
  const lamp = isUnderWay(scan.status) ? (news?.lamp ?? null) : null;
  const picture = useMemo(() => scan.map && { ...scan.map, lamp }, [scan.map, lamp]);
  return (
    <>
      <div className="flex items-center gap-3">
        <h1 className="min-w-0 truncate text-lg font-bold">
          {medium.name} <span className="font-normal text-second">· {bytes(source.size)} · read-only</span>
        </h1>
        <span className="ml-auto" />
        <MediumActions state={state} />
        <DepthChoice depth={depth} disabled={isUnderWay(scan.status)} onChoose={(one) => setAsked({ ...asked, depth: one })} />
        <ScanControls state={state} asked={asked} />
      </div>
      {!(covered && isSameAsked({ depth, ...covered }, { depth, ...EVERYTHING_THERE })) && (
        <ScopeChoice scope={scope} covered={covered} disabled={isUnderWay(scan.status)} onChoose={(one) => setAsked({ depth, ...one })} />
      )}
      {/* What came back is what one looks for first: how the storage looks stands below. */}
      <FindsByKind scan={scan} />
      <div className="flex flex-wrap gap-2 empty:hidden">
        <PeopleChips />
      </div>
      <section className="panel p-4" aria-label="Progress">
        <Progress scan={scan} size={source.size} pace={news?.pace ?? null} secondsLeft={news?.secondsLeft ?? null} />
        <StorageMap
          picture={picture}
          size={source.size}
          volumes={scan.volumes}
          onPlace={(from, to) => {
            void session.ask({ place: { medium: medium.id, from, to } });
            navigate("../finds");
          }}
        />
      </section>
      {medium.sha256 && <p className="font-mono text-[13px] break-all text-second">SHA-256 {medium.sha256}</p>}
      <RestOfCopy medium={medium.id} />
      <EncryptedNotice volumes={scan.volumes} />
      <Volumes medium={medium.id} volumes={scan.volumes} />
      {(scan.because ?? state.problem) && (
        <p role="alert" className="rounded-box bg-warning px-4 py-3 text-warning-content">
          <strong>{scan.because ?? state.problem}</strong> What was found until then is kept; go on tries again from there.
        </p>
      )}
      <Troubles troubles={scan.troubles} />
      <Passes scan={scan} />
      <WhyNothingErased scan={scan} source={source} />
      <section aria-label="Newest finds">
        <div className="mb-2 flex items-center gap-3">
          <h2 className="font-bold">Newest finds</h2>
          <span className="text-sm text-second">look and choose while the scan goes on</span>
          {scan.status !== "done" && (
            <Link to="../finds" className="button ml-auto h-8">
              Open Finds <ArrowRight className="size-4" aria-hidden="true" />
            </Link>
          )}
        </div>
        <NewestFinds keys={scan.newest} isOver={scan.status === "done"} />
      </section>
    </>
  );
}

/** A copy that is worked on though it is not whole: it can still be gone on with. */
function RestOfCopy({ medium }: { medium: number }) {
  const part = usePart(medium);
  return part && part.place !== null && part.status !== "done" ? <CopyPanel part={part} /> : null;
}

function DepthChoice({ depth, disabled, onChoose }: { depth: Depth; disabled: boolean; onChoose: (depth: Depth) => void }) {
  return (
    <fieldset className="flex items-center gap-2">
      <legend className="sr-only">Depth</legend>
      <span className="text-sm text-second" aria-hidden="true">
        Depth
      </span>
      {(["quick", "deep"] as const).map((one) => (
        <button
          key={one}
          type="button"
          className="chip"
          aria-pressed={depth === one}
          disabled={disabled}
          onClick={() => onChoose(one)}
          title={one === "quick" ? "what the lists still know" : "all free space by content as well"}
        >
          {one}
        </button>
      ))}
    </fieldset>
  );
}

function FindsByKind({ scan }: { scan: ShownScan }) {
  const isLeft = (kind: (typeof KINDS)[number]) => scan.status !== "new" && !asksFor(scan.scope, kind);
  return (
    <ul className="grid grid-cols-8 gap-2" aria-label="Finds by kind">
      {KINDS.map((kind) => {
        const states = scan.counts[kind];
        return (
          <li key={kind} className="panel px-3 py-2">
            <p className="text-sm">{KIND_WORDS[kind]}</p>
            {isLeft(kind) ? (
              <p className="py-1 text-[13px] text-second">not gone over</p>
            ) : (
              <>
                <p className="font-mono text-lg leading-6 font-bold">{count(states.present + states.binned + states.erased)}</p>
                <p className="flex items-center gap-1.5 text-[13px]">
                  <StateShape state={states.erased === 0 && states.binned > 0 ? "binned" : "erased"} /> {count(states.erased)} erased
                  {states.binned > 0 && `, ${count(states.binned)} binned`}
                </p>
              </>
            )}
          </li>
        );
      })}
    </ul>
  );
}

function WhyNothingErased({ scan, source }: { scan: ShownScan; source: SourceRef }) {
  const why = whyNoErased(scan, source);
  const binned = sumOf(scan.counts, "binned");
  if (!why) return null;
  return (
    <p className="text-[13.5px] text-second">
      <strong className="text-ink">{binned > 0 ? `${plural(binned, "thing")} in a bin, nothing erased.` : "Nothing erased."}</strong> {why}
    </p>
  );
}
