import { keyOf, numberOf, storedAt } from "../gathered.ts";
import type { Mapping } from "./mapping.ts";
import { kindsOf } from "./pick-system.ts";
import type { PickedText } from "./pick-text.ts";
import type { Profile } from "./profile.ts";
import type { PickedSides } from "./sides.ts";
import { share } from "./statistics.ts";
import { type Surveyed, valueAs } from "./survey.ts";

/** Rows of one kind that are fewer say too little of the kind. */
const FEW = 3;
/** So many of the rows that are named are there still: some were erased, and their numbers are lost with them. */
const FOUND = 0.6;
/** Signs of feeling are few, and short. */
const MOST_SIGNS = 16;
const LONGEST_SIGN = 8;

/**
 * Kinds of rows among the messages that are none: reactions, receipts, marks. They say nothing, or one of few signs; they carry nothing; and each names
 * another row, which messages seldom do.
 */
export function pickBesides(messages: Surveyed, sides: PickedSides, text: PickedText): NonNullable<Mapping["besides"]> {
  const rows = messages.sample.length;
  return kindsOf(messages, sides).flatMap(({ profile, value, rows: own }) => {
    if (value === null || profile === sides.flag || own.length < FEW || own.length > rows * 0.6) return [];
    const said = own.flatMap((index) => text.texts[index] ?? []);
    const areSigns = new Set(said).size <= MOST_SIGNS && said.every((one) => one.length <= LONGEST_SIGN);
    if (!areSigns || carriesSomething(messages, own) || !nameOthers(messages, own, sides)) return [];
    return [[{ from: valueAs("m", profile.column), in: [value] }]];
  });
}

const carriesSomething = (messages: Surveyed, own: readonly number[]): boolean =>
  messages.profiles.some(
    ({ column, files, mimes, media, urls }) =>
      Math.max(files, mimes, media, urls) > 0.3 &&
      own.some((index) => (column.values[index] ?? null) !== null && column.values[index] !== ""),
  );

/** Do all of these rows name another row of the table, by a column that says nothing in most others? */
function nameOthers(messages: Surveyed, own: readonly number[], sides: PickedSides): boolean {
  const mine = new Set(own);
  const others = messages.sample.flatMap((_, index) => (mine.has(index) ? [] : [index]));
  const says = (profile: Profile, index: number) => keyOf(profile.column.values[index]) !== null;
  return messages.profiles.some((profile) => {
    if (profile === sides.talk || profile === sides.sender || profile === sides.flag || profile.clock !== null) return false;
    if (share(own, (index) => says(profile, index)) < 0.95 || share(others, (index) => says(profile, index)) > 0.5) return false;
    return messages.keys.some((key) => {
      if (key.column.at === profile.column.at && profile.column.steps.length === 0) return false;
      const index = messages.by(key.column.at);
      return share(own, (at) => index.has(keyOf(profile.column.values[at]) ?? "") && isEarlier(messages, at, profile, key)) > FOUND;
    });
  });
}

/** What it names came before it: where both are numbers, small ones are found everywhere. */
function isEarlier(messages: Surveyed, at: number, profile: Profile, key: Profile): boolean {
  const [named, own] = [numberOf(profile.column.values[at]), numberOf(storedAt(messages.sample[at].row, key.column.at))];
  return named === undefined || own === undefined || named < own;
}
