import type { RecordKind } from "../../finds/record.ts";
import type { EntryColumns } from "./entry-columns.ts";
import { EntryFacets, Fails, failing } from "./entry-facets.ts";
import type { Persons, PersonView } from "./persons.ts";
import type { PersonAnswer, PersonQuery } from "./questions.ts";
import type { TalkTable } from "./talk-table.ts";

const OF_A_PERSON: ReadonlySet<RecordKind> = new Set<RecordKind>(["message", "chat", "contact", "call", "event"]);
/** Is a row of a person: by an address in it, or since it stands in a conversation with nobody else? */
function isTheirs(person: PersonView, columns: EntryColumns, talks: TalkTable, persons: Persons): (row: number) => boolean {
  const addresses = persons.idsOf(person);
  const keys = new Set(person.addresses.map(({ key }) => key));
  const between = new Set<number>();
  for (const { values, rows } of talks.all()) {
    const members = values.group ? [] : (values.members ?? []);
    const isWithThem = members.length > 0 && members.every(({ name, address }) => keys.has(persons.keyOf(address || name) ?? ""));
    if (isWithThem) for (const row of rows) between.add(row);
  }
  return (row) => columns.isOf(row, addresses) || between.has(row);
}

/** All that is of a person, or between them and the owner: the latest first, or the earliest; what has no moment at the end. Null: nobody is known so. */
export function personLines(query: PersonQuery, columns: EntryColumns, talks: TalkTable, persons: Persons): PersonAnswer | null {
  const person = persons.of(query.key);
  if (!person) return null;
  const isOf = isTheirs(person, columns, talks, persons);
  const holds = columns.holding(query.words, null);
  const fails = failing(query, columns);
  const facets = new EntryFacets(columns);
  const kinds: Partial<Record<RecordKind, number>> = {};
  const apps: Record<string, number> = {};
  const counts = { files: 0, skipped: 0 };
  const rows: number[] = [];
  for (let row = 0; row < columns.length; row++) {
    const kind = columns.kindOf(row);
    if (!OF_A_PERSON.has(kind) || !isOf(row)) continue;
    facets.see(row);
    if (!holds(row)) continue;
    counts.skipped += columns.skippedBefore(row);
    const app = kind === "message" || kind === "chat" ? columns.appAt(row) : null;
    const failed =
      fails(row) |
      (query.apps.length > 0 && (app === null || !query.apps.includes(app)) ? Fails.apps : 0) |
      (query.kinds.length > 0 && !query.kinds.includes(kind) ? Fails.kinds : 0) |
      (query.files && !columns.hasFiles(row) ? Fails.files : 0);
    if ((failed & ~Fails.kinds) === 0) kinds[kind] = (kinds[kind] ?? 0) + 1;
    if ((failed & ~Fails.apps) === 0 && app !== null) apps[app] = (apps[app] ?? 0) + 1;
    if ((failed & ~Fails.files) === 0 && columns.hasFiles(row)) counts.files++;
    facets.take(row, failed);
    if (failed === 0) rows.push(row);
  }
  const { times } = columns;
  const turn = query.earliest ? 1 : -1;
  rows.sort((a, b) => Number(Number.isNaN(times[a])) - Number(Number.isNaN(times[b])) || turn * (times[a] - times[b]) || a - b);
  return { person, places: rows.map(columns.placeOf), kinds, apps, ...facets.told(), ...counts };
}
