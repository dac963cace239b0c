import type { Find } from "./find.ts";

/** Facts that are numbers, in bands that people choose by: the upper edge of each but the last, which has none. */
export const BANDS = {
  /** Bytes. */
  size: [100_000, 1_000_000, 10_000_000, 100_000_000],
  /** Seconds of a film or sound. */
  length: [10, 60, 600, 3600],
  /** Pixels of a picture or film. */
  pixels: [300_000, 2_000_000, 8_000_000, 20_000_000],
} as const;

export type BandedFact = keyof typeof BANDS;
export const BANDED = Object.keys(BANDS) as readonly BandedFact[];

/** Not known, or nothing that has it. */
export const NO_BAND = -1;

const VALUES: Record<BandedFact, (find: Find) => number | null> = {
  size: ({ size }) => size,
  length: ({ seconds }) => seconds,
  pixels: ({ width, height }) => (width && height ? width * height : null),
};

/** The band of a fact: its number, counted from the lowest. */
export function bandOf(fact: BandedFact, find: Find): number {
  const value = VALUES[fact](find);
  if (value === null) return NO_BAND;
  const band = BANDS[fact].findIndex((edge) => value < edge);
  return band < 0 ? BANDS[fact].length : band;
}
