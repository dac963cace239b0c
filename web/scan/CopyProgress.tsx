import { totalLength } from "../../core/bytes/extents.ts";
import { rests } from "../../core/work/work-state.ts";
import type { CopyNews } from "../kept/news.ts";
import type { KeptPart } from "../kept/part.ts";
import { phoneDesk } from "../phones/phones.ts";
import { Warning } from "../shared/Warning.tsx";
import { bytes } from "../shared/words.ts";

const STATUS: Readonly<Record<Exclude<CopyNews["status"], "new">, string>> = {
  starting: "Copying:",
  running: "Copying:",
  pausing: "Pausing:",
  paused: "Paused:",
  stopping: "Stopping:",
  stopped: "Stopped:",
  held: "Held:",
  failed: "Broken off:",
  done: "Copied and hashed:",
};

interface Props {
  readonly part: KeptPart;
  readonly now: CopyNews;
  /** Does another tab make it? */
  readonly isElsewhere: boolean;
  /** Is the phone there, and may it be read? */
  readonly there: boolean;
  readonly onGoOn: (steal: boolean) => void;
  readonly onUse: () => void;
  readonly onDrop: () => void;
}

/** How far a working copy is, and what can be done with it now. */
export function CopyProgress(props: Props) {
  const { part, now } = props;
  const lost = totalLength(part.mark.unreadable);
  if (now.status === "new") return null;
  return (
    <>
      <progress
        className="progress progress-primary h-3 w-full"
        value={part.size > 0 ? now.done / part.size : 1}
        max={1}
        aria-label="Copied"
      />
      <p role="status">
        {STATUS[now.status]} {bytes(now.done)} of {bytes(part.size)}
        {lost > 0 && ` · ${bytes(lost)} could not be read: zeros stand there`}
      </p>
      {now.because && (
        <Warning>
          <strong>{now.because}</strong> What was copied is kept.
        </Warning>
      )}
      {lost > 0 && now.status === "done" && (
        <p className="text-[13.5px] text-second">
          What lies in those places is told as damaged everywhere: in Finds, at hand-over and in its summary.
        </p>
      )}
      {part.sha256 && <p className="font-mono text-[13px] break-all">SHA-256 {part.sha256}</p>}
      <CopyActions {...props} />
    </>
  );
}

/** Pause, stop, go on, work on it: what can be done now. */
function CopyActions({ part, now, isElsewhere, there, onGoOn, onUse, onDrop }: Props) {
  const isGoing = now.status === "starting" || now.status === "running";
  const isOwned = isGoing || now.status === "paused" || now.status === "held";
  if (isElsewhere)
    return (
      <p className="flex flex-wrap items-center gap-3">
        <span className="text-sm font-semibold">Another tab copies this. Here you watch.</span>
        <button type="button" className="button" disabled={!there} onClick={() => onGoOn(true)}>
          Take it over
        </button>
      </p>
    );
  return (
    <div className="flex flex-wrap gap-2">
      {isGoing && (
        <button type="button" className="button" onClick={() => void phoneDesk().pauseCopy(part.medium)}>
          Pause
        </button>
      )}
      {isOwned && (
        <button type="button" className="button" onClick={() => void phoneDesk().stopCopy(part.medium)}>
          Stop
        </button>
      )}
      {rests(now.status) && (
        <>
          <button type="button" className="button button-main" disabled={!there} onClick={() => onGoOn(false)}>
            Go on copying
          </button>
          {now.status !== "paused" && part.mark.done > 0 && (
            <button type="button" className="button" onClick={onUse}>
              Work on it as it is
            </button>
          )}
          <button type="button" className="button" onClick={onDrop}>
            Take something else
          </button>
        </>
      )}
      {now.status === "done" && (
        <button type="button" className="button button-main" onClick={onUse}>
          Work on this copy
        </button>
      )}
    </div>
  );
}
