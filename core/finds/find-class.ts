import { CONDITIONS, type Find, KINDS, STATES } from "./find.ts";

/**
 * What a find is in the four facets of few values, as one number: its medium's place in the list of media, kind, state, condition. Filtering looks at
 * 200,000 of these numbers, and counts by them.
 */
export const CLASSES_PER_MEDIUM = KINDS.length * STATES.length * CONDITIONS.length;

export const classOf = (medium: number, { kind, state, condition }: Pick<Find, "kind" | "state" | "condition">): number =>
  ((medium * KINDS.length + KINDS.indexOf(kind)) * STATES.length + STATES.indexOf(state)) * CONDITIONS.length +
  CONDITIONS.indexOf(condition);

/** Places of the four in the lists of their values. */
export const placesOf = (found: number) => ({
  condition: found % CONDITIONS.length,
  state: Math.floor(found / CONDITIONS.length) % STATES.length,
  kind: Math.floor(found / (CONDITIONS.length * STATES.length)) % KINDS.length,
  medium: Math.floor(found / CLASSES_PER_MEDIUM),
});
