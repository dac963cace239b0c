/**
 * Does erased content outlive what was written since?
 *
 * The model: writes fall anywhere into the free space, in runs of R bytes, and what is freed may be written again. Then
 * the writes that hit a stretch are a Poisson process, and with W bytes written over F bytes of free space
 * - a single block survives with probability e^(−W/F);
 * - a file of S bytes in one piece survives whole with probability e^(−(W/F)·(1 + S/R)): a run hits it when it begins
 *   within S + R bytes, and W/R runs were written.
 * Both are held against a simulated allocator in the test. Real allocators are kinder (they prefer some places) or harder
 * (they fill the freed place first), so these are middle values, not promises.
 */

/** Run length that a phone's writes are counted in: what a photo takes, in bytes. An assumption. */
export const USUAL_RUN = 3 * 1024 * 1024;

/** Probability that a freed block is still what it was. `written` and `free` in bytes. */
export const blockSurvival = (written: number, free: number): number => (free > 0 ? Math.exp(-written / free) : written > 0 ? 0 : 1);

/** Probability that a file of `size` bytes, erased in one piece, is still whole. */
export const fileSurvival = (size: number, written: number, free: number, run = USUAL_RUN): number =>
  blockSurvival(written * (1 + size / run), free);
