import { BANDED, BANDS, bandOf } from "./bands.ts";
import type { Find } from "./find.ts";
import type { FactCounts, Query } from "./find-query.ts";

/** Which filter of facts a row fails: behind those of FacetCounts. */
const FIRST = 8;
const FORMAT = 1 << FIRST;
const bitOf = (banded: number): number => 1 << (FIRST + 1 + banded);
/** Bits of all others. */
const OTHERS = FORMAT - 1;
const PASSED = 1;
const FACETS = 1 + BANDED.length;

interface Facts {
  readonly format: string;
  readonly bands: readonly number[];
}

/**
 * Format, size, length and pixels of finds. Thousands of finds share what they are in these: each combination is kept once, by number, and filters are
 * asked of the combinations.
 */
export class FactTable {
  readonly #all: Facts[] = [];
  readonly #numbers = new Map<string, number>();

  numberOf(find: Find): number {
    const bands = BANDED.map((fact) => bandOf(fact, find));
    const name = `${find.format} ${bands.join(" ")}`;
    const known = this.#numbers.get(name);
    if (known !== undefined) return known;
    this.#numbers.set(name, this.#all.length);
    return this.#all.push({ format: find.format, bands }) - 1;
  }

  /** Which filters each combination fails, by its number. */
  failing({ formats, bands }: Query): Uint16Array {
    return Uint16Array.from(this.#all, (facts) => {
      let fails = formats.length > 0 && !formats.includes(facts.format) ? FORMAT : 0;
      for (const [banded, fact] of BANDED.entries())
        if (bands[fact].length > 0 && !bands[fact].includes(facts.bands[banded])) fails |= bitOf(banded);
      return fails;
    });
  }

  /** `groups`: how many numbers of groups of one content there are. */
  tally(groups: number): FactTally {
    return new FactTally(this.#all, groups);
  }
}

/** How many finds are of each format and in each band, with all filters but its own. */
export class FactTally {
  readonly #all: readonly Facts[];
  /** Of each combination: finds that pass all, and those that fail one facet of facts alone. */
  readonly #passed: Uint32Array;
  /** By the facet's bit, behind those of others. */
  readonly #failed: readonly (Uint32Array | undefined)[];

  /** By group of one content: under which facets it counts already. What is in several places counts once. */
  readonly #seen: Uint16Array;

  constructor(all: readonly Facts[], groups: number) {
    this.#all = all;
    this.#seen = new Uint16Array(groups);
    this.#passed = new Uint32Array(all.length);
    const failed: (Uint32Array | undefined)[] = [];
    for (let facet = 0; facet < FACETS; facet++) failed[1 << facet] = new Uint32Array(all.length);
    this.#failed = failed;
  }

  /** So many finds of one combination that fail the same. */
  take(number: number, fails: number, count: number): void {
    const counts = this.#countsOf(fails);
    if (counts) counts[number] += count;
  }

  /** A find whose content is in several places, by the number of that: it counts once. */
  takeGrouped(number: number, fails: number, group: number): void {
    const counts = this.#countsOf(fails);
    if (!counts) return;
    const bit = fails === 0 ? PASSED : fails;
    if ((this.#seen[group] & bit) !== 0) return;
    this.#seen[group] |= bit;
    counts[number]++;
  }

  /** Where finds count that fail these: undefined where they count nowhere. */
  #countsOf(fails: number): Uint32Array | undefined {
    if ((fails & OTHERS) !== 0) return undefined;
    return fails === 0 ? this.#passed : this.#failed[fails >>> FIRST];
  }

  told(): FactCounts {
    const formats = new Map<string, number>();
    const bands = { size: zeros("size"), length: zeros("length"), pixels: zeros("pixels") };
    for (const [number, facts] of this.#all.entries()) {
      const here = (bit: number) => this.#passed[number] + (this.#failed[bit >>> FIRST]?.[number] ?? 0);
      const ofFormat = here(FORMAT);
      if (ofFormat > 0) formats.set(facts.format, (formats.get(facts.format) ?? 0) + ofFormat);
      for (const [banded, fact] of BANDED.entries()) if (facts.bands[banded] >= 0) bands[fact][facts.bands[banded]] += here(bitOf(banded));
    }
    return { formats, bands };
  }
}

const zeros = (fact: (typeof BANDED)[number]): number[] => new Array<number>(BANDS[fact].length + 1).fill(0);
