/** What two columns have to do with each other, in bits and in excess of chance. */

/** Of a list so many are so, 0 to 1. */
export const share = <T>(list: readonly T[], is: (one: T) => boolean): number => list.filter(is).length / Math.max(1, list.length);

const entropyOf = (counts: Iterable<number>, total: number): number => {
  let sum = 0;
  for (const count of counts) if (count > 0) sum -= (count / total) * Math.log2(count / total);
  return sum;
};

const count = <T>(list: readonly T[]): Map<T, number> => {
  const counts = new Map<T, number>();
  for (const one of list) counts.set(one, (counts.get(one) ?? 0) + 1);
  return counts;
};

export const entropy = (list: readonly string[]): number => entropyOf(count(list).values(), list.length);

const jointEntropy = (a: readonly string[], b: readonly string[]): number => entropy(a.map((one, index) => `${one}\u0000${b[index]}`));

/** Moves each to another's place, the same way every time. */
function shuffled(list: readonly string[]): string[] {
  const all = [...list];
  let seed = 0x2545f491;
  for (let at = all.length - 1; at > 0; at--) {
    // A linear congruential generator (Numerical Recipes §7.1): chance that is the same in every run.
    seed = (Math.imul(seed, 1_664_525) + 1_013_904_223) >>> 0;
    const other = seed % (at + 1);
    [all[at], all[other]] = [all[other], all[at]];
  }
  return all;
}

/** How much of `told` one knows by `by`, 0 to 1, less what chance would tell (mutual information, adjusted by a shuffle). */
export function toldBy(told: readonly string[], by: readonly string[]): number {
  const all = entropy(told);
  if (all === 0 || told.length < 4) return 0;
  const shared = (list: readonly string[]) => entropy(list) + entropy(by) - jointEntropy(list, by);
  const chance = shared(shuffled(told));
  return Math.max(0, Math.min(1, (shared(told) - chance) / Math.max(1e-9, all - chance)));
}

/** Of each two that follow each other, how many rise, 0 to 1. */
export function rising(list: readonly number[]): number {
  let up = 0;
  let steps = 0;
  for (let at = 1; at < list.length; at++) {
    if (Number.isNaN(list[at]) || Number.isNaN(list[at - 1])) continue;
    steps++;
    if (list[at] >= list[at - 1]) up++;
  }
  return steps > 0 ? up / steps : 0;
}
