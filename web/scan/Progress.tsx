import { totalLength } from "../../core/bytes/extents.ts";
import { isUnderWay } from "../../core/work/work-state.ts";
import type { ShownScan } from "../session/session-state.ts";
import { bytes, duration, plural } from "../shared/words.ts";
import { partDone } from "../shell/scan-words.ts";

/** How far a scan is, how fast, how long still, and what does not read. */
export function Progress({
  scan,
  size,
  pace,
  secondsLeft,
}: {
  scan: ShownScan;
  size: number;
  pace: number | null;
  secondsLeft: number | null;
}) {
  const lost = totalLength(scan.unreadable);
  const goes = isUnderWay(scan.status);
  return (
    <p className="float-right flex items-baseline gap-3" role="status">
      <span className="font-mono text-xl font-bold">{Math.floor(partDone(scan) * 100)} %</span>
      <span className="text-[13.5px] text-second">
        {scan.progress.total > 0 && scan.status !== "done"
          ? `${bytes(scan.progress.done)} of ${bytes(scan.progress.total)} of this pass`
          : bytes(size)}
        {goes && pace ? ` · ${bytes(pace)}/s` : ""}
        {goes && secondsLeft !== null ? ` · ${duration(secondsLeft)} left` : ""}
        {scan.status === "done" ? ` · done in ${duration(scan.seconds)}` : ""}
        {scan.status === "held" ? " · held" : ""}
        {lost > 0 ? ` · unreadable: ${bytes(lost)} in ${plural(scan.unreadable.length, "place")}` : ""}
      </span>
    </p>
  );
}
