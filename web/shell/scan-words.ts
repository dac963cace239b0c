import type { ScanRecord } from "../kept/job.ts";
import { duration } from "../shared/words.ts";

/** Part of the whole scan that is done, 0 to 1. The sweep is nearly all of a deep one. */
export function partDone({ status, depth, progress }: ScanRecord): number {
  if (status === "done") return 1;
  const part = progress.total > 0 ? Math.min(1, progress.done / progress.total) : 0;
  if (depth === "quick") return part * 0.99;
  return progress.pass === "listing" ? part * 0.1 : 0.1 + part * 0.89;
}

/** Where a scan stands, in a few words. */
export function scanWords(scan: ScanRecord, secondsLeft: number | null): string {
  const percent = `${Math.floor(partDone(scan) * 100)} %`;
  switch (scan.status) {
    case "new":
      return "not started";
    case "running":
      return secondsLeft === null ? percent : `${percent}, ${duration(secondsLeft)} left`;
    case "paused":
      return `paused at ${percent}`;
    case "stopped":
      return `stopped at ${percent}`;
    case "failed":
      return "broken off";
    case "done":
      return `${scan.depth} scan done in ${duration(scan.seconds)}`;
  }
}
