import type { RecordKind } from "../../finds/record.ts";
import type { EntryColumns } from "./entry-columns.ts";
import { EntryFacets, Fails, failing } from "./entry-facets.ts";
import type { Persons, PersonView } from "./persons.ts";
import type { PersonAnswer, PersonQuery } from "./questions.ts";
import type { TalkTable } from "./talk-table.ts";

const OF_A_PERSON: readonly RecordKind[] = ["message", "chat", "contact", "call", "event"];

/** Is a row of a person: by an address in it, or since it stands in a conversation with nobody else? */
function isTheirs(person: PersonView, columns: EntryColumns, talks: TalkTable, persons: Persons): (row: number) => boolean {
  const keys = new Set(person.addresses.map(({ key }) => key));
  const isOfTheirs = columns.areTheirs(persons.idsOf(person));
  const between = new Uint8Array(columns.length);
  for (const { values, rows } of talks.all()) {
    const members = values.group ? [] : (values.members ?? []);
    const isWithThem = members.length > 0 && members.every(({ name, address }) => keys.has(persons.keyOf(address || name) ?? ""));
    if (isWithThem) for (const row of rows) between[row] = 1;
  }
  return (row) => isOfTheirs(row) || between[row] === 1;
}

/** All that is of a person, or between them and the owner: the latest first, or the earliest; what has no moment at the end. Null: nobody is known so. */
export function personLines(query: PersonQuery, columns: EntryColumns, talks: TalkTable, persons: Persons): PersonAnswer | null {
  const person = persons.of(query.key);
  if (!person) return null;
  const isPersonal = columns.areOf(OF_A_PERSON);
  const isOf = isTheirs(person, columns, talks, persons);
  const holds = columns.holding(query.words, null);
  const fails = failing(query, columns);
  const facets = new EntryFacets(columns);
  const kinds: Partial<Record<RecordKind, number>> = {};
  const isAny = query.kinds.length + query.apps.length === 0;
  const apps: Record<string, number> = {};
  const counts = { files: 0, skipped: 0 };
  const rows: number[] = [];
  for (let row = 0; row < columns.length; row++) {
    if (!isPersonal(row) || !isOf(row)) continue;
    const kind = columns.kindOf(row);
    facets.see(row);
    if (!holds(row)) continue;
    counts.skipped += columns.skippedBefore(row);
    const app = kind === "message" || kind === "chat" ? columns.appAt(row) : null;
    const failed =
      fails(row) |
      (isAny || query.kinds.includes(kind) || (app !== null && query.apps.includes(app)) ? 0 : Fails.kinds) |
      (query.files && !columns.hasFiles(row) ? Fails.files : 0);
    if ((failed & ~Fails.kinds) === 0) kinds[kind] = (kinds[kind] ?? 0) + 1;
    if ((failed & ~Fails.kinds) === 0 && app !== null) apps[app] = (apps[app] ?? 0) + 1;
    if ((failed & ~Fails.files) === 0 && columns.hasFiles(row)) counts.files++;
    facets.take(row, failed);
    if (failed === 0) rows.push(row);
  }
  const { times } = columns;
  const turn = query.earliest ? 1 : -1;
  rows.sort((a, b) => Number(Number.isNaN(times[a])) - Number(Number.isNaN(times[b])) || turn * (times[a] - times[b]) || a - b);
  return { person, places: rows.map(columns.placeOf), kinds, apps, ...facets.told(), ...counts };
}
