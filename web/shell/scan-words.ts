import type { CopyRecord } from "../kept/copy.ts";
import type { ScanRecord } from "../kept/job.ts";
import { duration } from "../shared/words.ts";

/** Where each pass begins in the whole, and how much of it it is. */
const SHARES: Record<ScanRecord["depth"], Record<ScanRecord["progress"]["pass"], readonly [number, number]>> = {
  quick: { listing: [0, 0.7], sweep: [0.7, 0], databases: [0.7, 0.29], reconcile: [0.99, 0], done: [0.99, 0] },
  deep: { listing: [0, 0.1], sweep: [0.1, 0.75], databases: [0.85, 0.14], reconcile: [0.99, 0], done: [0.99, 0] },
};

/** Part of the whole scan that is done, 0 to 1. The sweep is nearly all of a deep one. */
export function partDone({ status, depth, progress }: ScanRecord): number {
  if (status === "done") return 1;
  const part = progress.total > 0 ? Math.min(1, progress.done / progress.total) : 0;
  const [from, share] = SHARES[depth][progress.pass];
  return from + part * share;
}

/** Where a ticket's storage stands before anything of it is scanned: it may be copied, or on its way. */
export function storageWords(copy: Pick<CopyRecord, "status" | "mark" | "size"> | null | undefined): string {
  if (!copy || copy.status === "found") return "no storage yet";
  const percent = `${copy.size > 0 ? Math.floor((100 * copy.mark.done) / copy.size) : 100} %`;
  return {
    running: `copying, ${percent}`,
    stopped: `copy stopped at ${percent}`,
    failed: `copy broken off at ${percent}`,
    done: "copied, not scanned yet",
  }[copy.status];
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
