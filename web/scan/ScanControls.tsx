import { ArrowRight, Pause, Play, Square } from "lucide-react";
import { Link } from "react-router";
import { type Asked, isSameAsked } from "../../core/scan/checkpoint.ts";
import { compared } from "../../core/scan/scope.ts";
import { isUnderWay, rests } from "../../core/work/work-state.ts";
import { askedOf } from "../kept/kept-scan.ts";
import { isCopied, type MediumState, type ShownScan, scanOf } from "../session/session-state.ts";
import { useSession } from "../session/use-session.ts";

/** Start, pause, stop, go on, take over: what can be done now. */
export function ScanControls({ state, asked }: { state: MediumState; asked: Asked }) {
  const session = useSession();
  const scan = scanOf(state);
  const open = state.storage === "open";
  if (isCopied(state)) return <span className="text-sm font-semibold">The rest of it is copied now. Stop that first to scan it.</span>;
  if (state.worked === "elsewhere")
    return (
      <>
        <span className="text-sm font-semibold">Another tab scans this medium. Here you watch.</span>
        <button type="button" className="button" disabled={!open} onClick={() => void session.start(askedOf(scan), true)}>
          Take it over
        </button>
      </>
    );
  if (isUnderWay(scan.status)) return <UnderWay state={state} />;
  const words = wordsOf(scan, asked);
  // What was found is what one came for; scanning again is for those who look for it.
  const found = words === "Scan again" && scan.status === "done";
  return (
    <>
      {found && (
        <Link to="../finds" className="button button-main">
          Open Finds <ArrowRight className="size-4" aria-hidden="true" />
        </Link>
      )}
      {(scan.status === "paused" || scan.status === "held") && (
        <button type="button" className="button" onClick={() => session.inHand?.stop()}>
          <Square className="size-4" aria-hidden="true" /> Stop
        </button>
      )}
      <button type="button" className={found ? "button" : "button button-main"} disabled={!open} onClick={() => void session.start(asked)}>
        <Play className="size-4" aria-hidden="true" /> {words}
      </button>
    </>
  );
}

/** What starting it comes to. */
function wordsOf(scan: ShownScan, asked: Asked): string {
  const isRest = scan.depth === asked.depth && compared(scan.scope, asked) === "wider";
  if (scan.status === "new") return "Start the scan";
  if (rests(scan.status) && (isRest || isSameAsked(askedOf(scan), asked))) return "Go on";
  if (scan.status !== "done") return "Scan again";
  if (scan.depth === "quick" && asked.depth === "deep") return "Search deeper";
  return isRest ? "Go over the rest" : "Scan again";
}

function UnderWay({ state }: { state: MediumState }) {
  const session = useSession();
  const { status } = scanOf(state);
  return (
    <>
      <button
        type="button"
        className="button"
        disabled={status === "pausing" || status === "stopping"}
        onClick={() => session.inHand?.pause()}
      >
        <Pause className="size-4" aria-hidden="true" /> {status === "pausing" ? "Pausing…" : "Pause"}
      </button>
      <button type="button" className="button" disabled={status === "stopping"} onClick={() => session.inHand?.stop()}>
        <Square className="size-4" aria-hidden="true" /> {status === "stopping" ? "Stopping…" : "Stop"}
      </button>
    </>
  );
}
