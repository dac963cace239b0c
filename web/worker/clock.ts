import type { Clock } from "../../core/work/conductor.ts";

/** The worker's own clock, for what is conducted in it. */
export const clock: Clock = {
  now: () => performance.now(),
  wait: (milliseconds) => new Promise((done) => setTimeout(done, milliseconds)),
};
