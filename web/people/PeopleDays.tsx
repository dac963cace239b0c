import type { PeopleFacets } from "../../core/stores/people/questions.ts";
import { Days } from "../finds/Days.tsx";
import type { Narrowed } from "./use-narrowed.ts";

interface Props {
  readonly facets: PeopleFacets;
  readonly narrowed: Narrowed;
  /** What it counts: "calls". */
  readonly what: string;
}

/** The days of people's data, to be narrowed to those that matter. */
export const PeopleDays = ({ facets: { days, span }, narrowed, what }: Props) => (
  <Days days={days} span={span} range={narrowed.days} onRange={narrowed.onDays} what={what} isLow />
);
