import { BANDS, type BandedFact } from "../../core/finds/bands.ts";
import { bytes } from "../shared/words.ts";

export const FACT_WORDS: Record<BandedFact, string> = { size: "size", length: "length", pixels: "picture" };

const EDGES: Record<BandedFact, (value: number) => string> = {
  size: (value) => bytes(value).replace(/\.0 /, " "),
  length: (value) => (value < 60 ? `${value} s` : value < 3600 ? `${value / 60} min` : `${value / 3600} h`),
  pixels: (value) => `${value / 1e6} MP`,
};

/** A band of a fact in words: "under 10 s", "10 s – 1 min", "over 1 h". */
export function bandWords(fact: BandedFact, band: number): string {
  const edges: readonly number[] = BANDS[fact];
  const words = EDGES[fact];
  if (band === 0) return `under ${words(edges[0])}`;
  return band === edges.length ? `over ${words(edges[band - 1])}` : `${words(edges[band - 1])} – ${words(edges[band])}`;
}
