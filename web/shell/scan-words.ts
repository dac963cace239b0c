import { findsIn } from "../kept/kept-scan.ts";
import type { ShownScan } from "../session/session-state.ts";
import { duration } from "../shared/words.ts";

/** Where each pass begins in the whole, and how much of it it is. */
const SHARES: Record<ShownScan["depth"], Record<ShownScan["progress"]["pass"], readonly [number, number]>> = {
  quick: { listing: [0, 0.7], sweep: [0.7, 0], archives: [0.7, 0.02], databases: [0.72, 0.27], reconcile: [0.99, 0], done: [0.99, 0] },
  deep: { listing: [0, 0.1], sweep: [0.1, 0.75], archives: [0.85, 0.04], databases: [0.89, 0.1], reconcile: [0.99, 0], done: [0.99, 0] },
};

/** Part of the whole scan that is done, 0 to 1. The sweep is nearly all of a deep one. */
export function partDone({ status, depth, progress }: Pick<ShownScan, "status" | "depth" | "progress">): number {
  if (status === "done") return 1;
  const part = progress.total > 0 ? Math.min(1, progress.done / progress.total) : 0;
  const [from, share] = SHARES[depth][progress.pass];
  return from + part * share;
}

/** How far a working copy is, as far as its words need it. */
export interface CopyStand {
  readonly status: ShownScan["status"];
  readonly done: number;
  readonly size: number;
}

/** Where a part of a phone stands before anything of it is scanned: it may be copied, or on its way. */
export function copyWords({ status, done, size }: CopyStand): string {
  const percent = `${size > 0 ? Math.floor((100 * done) / size) : 100} %`;
  switch (status) {
    case "new":
      return "found, not copied yet";
    case "starting":
    case "running":
      return `copying, ${percent}`;
    case "pausing":
      return `copying, ${percent}, pausing`;
    case "paused":
      return `copy paused at ${percent}`;
    case "stopping":
      return `copying, ${percent}, stopping`;
    case "stopped":
      return `copy stopped at ${percent}`;
    case "held":
      return `copy held at ${percent}`;
    case "failed":
      return `copy broken off at ${percent}`;
    case "done":
      return "copied, not scanned yet";
  }
}

/** Where a scan stands, in a few words. */
export function scanWords(scan: ShownScan, secondsLeft: number | null): string {
  const percent = `${Math.floor(partDone(scan) * 100)} %`;
  switch (scan.status) {
    case "new":
      return "not started";
    case "starting":
      return "starting";
    case "running":
      return secondsLeft === null ? percent : `${percent}, ${duration(secondsLeft)} left`;
    case "pausing":
      return `${percent}, pausing`;
    case "paused":
      return `paused at ${percent}`;
    case "stopping":
      return `${percent}, stopping`;
    case "stopped":
      return `stopped at ${percent}`;
    case "held":
      return `held at ${percent}`;
    case "failed":
      return "broken off";
    case "done":
      return `${scan.depth} scan done in ${duration(scan.seconds)}`;
  }
}

/** One medium of a ticket, as far as the sum of all needs it. */
export interface Standing {
  readonly scan: ShownScan;
  readonly secondsLeft: number | null;
  /** Its working copy, while nothing of it can be scanned yet. */
  readonly copy: CopyStand | null;
}

/** What all media of a ticket come to, in a few words: of one what it does, of several how many are done and what goes on. */
export function standingWords(all: readonly Standing[]): string {
  const [first, ...others] = all;
  if (!first) return "no storage yet";
  if (others.length === 0) return first.copy ? copyWords(first.copy) : scanWords(first.scan, first.secondsLeft);
  const done = all.filter(({ scan, copy }) => !copy && scan.status === "done").length;
  const held = all.find(({ scan, copy }) => (copy ?? scan).status === "held");
  const busy = all.filter(({ scan, copy }) => (copy ?? scan).status === "running");
  const left = Math.max(...busy.map(({ secondsLeft }) => secondsLeft ?? 0));
  const goes = held ? ", one held" : busy.length > 0 ? `, ${busy.length} at work${left > 0 ? `, ${duration(left)} left` : ""}` : "";
  return `${done} of ${all.length} done${goes}`;
}

/** Finds of all media together, as their scans count them. */
export const findsOf = (all: readonly Pick<Standing, "scan">[]): number => all.reduce((sum, { scan }) => sum + findsIn(scan.counts), 0);
