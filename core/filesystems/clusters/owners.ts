/** Since when present files have their clusters: what tells a cluster that was taken later from one that was taken before. */
export class Owners {
  #runs: { first: number; last: number; since: number | null; start: number }[] = [];
  #sorted = true;

  /** `clusters`: those of one present file or folder, in its order. `since`: when it was made, milliseconds. */
  note(clusters: readonly number[], since: number | null): void {
    for (let index = 0; index < clusters.length; ) {
      let end = index;
      while (end + 1 < clusters.length && clusters[end + 1] === clusters[end] + 1) end++;
      this.#runs.push({ first: clusters[index], last: clusters[end], since, start: clusters[0] });
      index = end + 1;
    }
    this.#sorted = false;
  }

  /** The present owner of a cluster. Null: none is known. */
  of(cluster: number): { since: number | null; start: number } | null {
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
    return run && run.first <= cluster ? run : null;
  }
}
