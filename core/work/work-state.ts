/** Where a piece of work stands: a scan, a copy. */
export const WORK_STATES = ["new", "starting", "running", "pausing", "paused", "stopping", "stopped", "held", "done", "failed"] as const;
export type WorkState = (typeof WORK_STATES)[number];

/** Is it on its way: at work, or about to begin or to rest? */
export const isUnderWay = (state: WorkState): boolean =>
  state === "starting" || state === "running" || state === "pausing" || state === "stopping";

/** Does it rest where it can be gone on with? */
export const rests = (state: WorkState): boolean => state === "paused" || state === "stopped" || state === "held" || state === "failed";

/** Is nobody at it any more? Paused and held work still has its owner. */
export const isOver = (state: WorkState): boolean => state === "stopped" || state === "failed" || state === "done";
