import { z } from "zod";
import { type ByteSource, UnreadableError } from "./source.ts";

/** A stretch that reads badly. Lengths and offsets in bytes, delays in milliseconds. */
export const Fault = z.object({
  start: z.number().int().nonnegative(),
  length: z.number().int().positive(),
  /** dead: never reads. flaky: reads from attempt `succeedsOnAttempt` on. slow: reads after `delayMs`. */
  behaviour: z.enum(["dead", "flaky", "slow"]),
  succeedsOnAttempt: z.number().int().positive().optional(),
  delayMs: z.number().nonnegative().optional(),
});
export type Fault = Readonly<z.infer<typeof Fault>>;

/** A source with faults laid over it: a worn card, for practice and for checks. `wait` brings the clock. */
export function faultySource(source: ByteSource, faults: readonly Fault[], wait: (ms: number) => Promise<void>): ByteSource {
  const sorted = [...faults].sort((a, b) => a.start - b.start);
  const attempts = new Map<Fault, number>();
  return {
    name: source.name,
    size: source.size,
    async read(offset, length) {
      for (const fault of sorted) {
        if (fault.start >= offset + length) break;
        if (fault.start + fault.length <= offset) continue;
        const attempt = (attempts.get(fault) ?? 0) + 1;
        attempts.set(fault, attempt);
        if (fault.behaviour === "slow") await wait(fault.delayMs ?? 0);
        else if (fault.behaviour === "dead" || attempt < (fault.succeedsOnAttempt ?? 2)) {
          const from = Math.max(offset, fault.start);
          throw new UnreadableError(from, Math.min(offset + length, fault.start + fault.length) - from);
        }
      }
      return source.read(offset, length);
    },
  };
}
