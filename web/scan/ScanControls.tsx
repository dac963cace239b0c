import { ArrowRight, Pause, Play, Square } from "lucide-react";
import { Link } from "react-router";
import type { Depth } from "../../core/scan/events.ts";
import { isUnderWay, rests } from "../../core/work/work-state.ts";
import { isCopied, type MediumState, scanOf } from "../session/session-state.ts";
import { useSession } from "../session/use-session.ts";

/** Start, pause, stop, go on, take over: what can be done now. */
export function ScanControls({ state, depth }: { state: MediumState; depth: Depth }) {
  const session = useSession();
  const scan = scanOf(state);
  const open = state.storage === "open";
  if (isCopied(state)) return <span className="text-sm font-semibold">The rest of it is copied now. Stop that first to scan it.</span>;
  if (state.worked === "elsewhere")
    return (
      <>
        <span className="text-sm font-semibold">Another tab scans this medium. Here you watch.</span>
        <button type="button" className="button" disabled={!open} onClick={() => void session.start(scan.depth, true)}>
          Take it over
        </button>
      </>
    );
  if (isUnderWay(scan.status)) return <UnderWay state={state} />;
  const deeper = scan.status === "done" && scan.depth === "quick" && depth === "deep";
  const words =
    rests(scan.status) && depth === scan.depth
      ? "Go on"
      : deeper
        ? "Search deeper"
        : scan.status === "new"
          ? "Start the scan"
          : "Scan again";
  // What was found is what one came for; scanning again is for those who look for it.
  const found = scan.status === "done" && !deeper;
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
      <button type="button" className={found ? "button" : "button button-main"} disabled={!open} onClick={() => void session.start(depth)}>
        <Play className="size-4" aria-hidden="true" /> {words}
      </button>
    </>
  );
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
