/** A present file that has clusters: the place of its record, and what to call it. */
export interface OwningFile {
  readonly at: number;
  readonly name: string;
}

/** Since when present files have their clusters: what tells a cluster that was taken later from one that was taken before. */
export class Owners {
  #runs: { first: number; last: number; since: number | null; start: number; usedInLast: number; file: OwningFile | null }[] = [];
  #sorted = true;

  /**
   * `clusters`: those of one present file or folder, in its order. `since`: when it was made, milliseconds.
   * `usedInLast`: bytes of its last cluster that are its own: what stands behind them is older.
   */
  note(clusters: readonly number[], since: number | null, usedInLast = Number.POSITIVE_INFINITY, file: OwningFile | null = null): void {
    for (let index = 0; index < clusters.length; ) {
      let end = index;
      while (end + 1 < clusters.length && clusters[end + 1] === clusters[end] + 1) end++;
      const used = end === clusters.length - 1 ? usedInLast : Number.POSITIVE_INFINITY;
      this.#runs.push({ first: clusters[index], last: clusters[end], since, start: clusters[0], usedInLast: used, file });
      index = end + 1;
    }
    this.#sorted = false;
  }

  /** The present owner of a cluster. Null: none is known. */
  of(cluster: number): { since: number | null; start: number; used: number; file: OwningFile | null } | null {
    if (!this.#sorted) {
      this.#runs.sort((a, b) => a.first - b.first);
      this.#sorted = true;
    }
    let low = 0;
    let high = this.#runs.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.#runs[middle].last < cluster) low = middle + 1;
      else high = middle;
    }
    const run = this.#runs[low];
    if (!run || run.first > cluster) return null;
    return { since: run.since, start: run.start, file: run.file, used: run.last === cluster ? run.usedInLast : Number.POSITIVE_INFINITY };
  }
}
