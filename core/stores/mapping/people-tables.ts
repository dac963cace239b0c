import type { Profile } from "./profile.ts";
import type { Surveyed } from "./survey.ts";

/** A table that tells who people are: names, and what they are reached by. */
export interface PeopleTable {
  readonly table: Surveyed;
  readonly names: readonly Profile[];
  readonly addresses: readonly Profile[];
}

const plain = ({ column, clock }: Profile): boolean => column.steps.length === 0 && clock === null;

/** Columns with names of people, the likeliest first. */
export const namesIn = (table: Surveyed): Profile[] =>
  table.profiles
    .filter(
      (profile) =>
        plain(profile) &&
        profile.texts > 0.9 &&
        profile.personNames >= 0.5 &&
        profile.filled >= 2 &&
        profile.distinct >= profile.filled * 0.2,
    )
    .sort((a, b) => b.personNames * b.filled - a.personNames * a.filled);

/** Columns with numbers, addresses or handles, the likeliest first: numbers and addresses with an @ before others. */
export const addressesIn = (table: Surveyed): Profile[] =>
  table.profiles
    .filter(
      (profile) =>
        plain(profile) &&
        profile.texts > 0.9 &&
        profile.addresses >= 0.75 &&
        profile.mimes === 0 &&
        profile.files < 0.3 &&
        profile.filled >= 2 &&
        profile.distinct >= profile.filled * 0.2,
    )
    .sort((a, b) => b.addresses - b.codes / 4 - (a.addresses - a.codes / 4));

export function peopleTable(table: Surveyed): PeopleTable | null {
  const names = namesIn(table);
  const addresses = addressesIn(table).filter((profile) => !names.includes(profile));
  return names.length > 0 || addresses.length > 0 ? { table, names, addresses } : null;
}
