import { EVERYTHING, type Query } from "../../core/finds/find-query.ts";

/** In a list of filters: added where it was not there, taken out where it was. */
export const toggled = <T>(list: readonly T[], one: T): readonly T[] =>
  list.includes(one) ? list.filter((other) => other !== one) : [...list, one];

/** Does anything filter? */
export const isFiltered = ({ media, kinds, states, conditions, days, words, first, place, folder, formats, bands }: Query): boolean =>
  [media, kinds, states, conditions, formats, ...Object.values(bands)].some((chosen) => chosen.length > 0) ||
  days !== null ||
  words !== "" ||
  first !== "" ||
  place !== null ||
  folder !== null;

/** Takes all filters off; the order and the groups stay. */
export const showAll = ({ sort, group }: Query): Query => ({ ...EVERYTHING, sort, group });
