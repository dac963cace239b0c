import type { RecordKind, RecordState } from "../../finds/record.ts";
import type { EntryColumns } from "./entry-columns.ts";
import type { Persons, PersonView } from "./persons.ts";
import type { PersonAnswer, PersonQuery } from "./questions.ts";
import type { TalkTable } from "./talk-table.ts";

const OF_A_PERSON: ReadonlySet<RecordKind> = new Set<RecordKind>(["message", "chat", "contact", "call", "event"]);
/** Filters, each a bit: a count of a facet takes what fails none but its own. */
const Fails = { kinds: 1, states: 2, files: 4, days: 8 } as const;

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
  const kinds: Partial<Record<RecordKind, number>> = {};
  const states: Partial<Record<RecordState, number>> = {};
  const byDay = new Map<number, { day: number; erased: number; others: number }>();
  const counts = { files: 0, skipped: 0 };
  const rows: number[] = [];
  for (let row = 0; row < columns.length; row++) {
    if (!holds(row) || !isOf(row)) continue;
    const kind = columns.kindOf(row);
    if (!OF_A_PERSON.has(kind)) continue;
    const state = columns.stateOf(row);
    const day = columns.dayOf(row);
    counts.skipped += columns.skippedBefore(row);
    const fails =
      (query.kinds.length > 0 && !query.kinds.includes(kind) ? Fails.kinds : 0) |
      (query.states.length > 0 && !query.states.includes(state) ? Fails.states : 0) |
      (query.files && !columns.hasFiles(row) ? Fails.files : 0) |
      (columns.isIn(row, query.days) ? 0 : Fails.days);
    if ((fails & ~Fails.kinds) === 0) kinds[kind] = (kinds[kind] ?? 0) + 1;
    if ((fails & ~Fails.states) === 0) states[state] = (states[state] ?? 0) + 1;
    if ((fails & ~Fails.files) === 0 && columns.hasFiles(row)) counts.files++;
    if ((fails & ~Fails.days) === 0 && !Number.isNaN(day)) {
      const one = byDay.get(day) ?? { day, erased: 0, others: 0 };
      byDay.set(day, one);
      one[state === "erased" ? "erased" : "others"]++;
    }
    if (fails === 0) rows.push(row);
  }
  const { times } = columns;
  const turn = query.earliest ? 1 : -1;
  rows.sort((a, b) => Number(Number.isNaN(times[a])) - Number(Number.isNaN(times[b])) || turn * (times[a] - times[b]) || a - b);
  const days = [...byDay.values()].sort((a, b) => a.day - b.day);
  return { person, places: rows.map(columns.placeOf), kinds, states, days, ...counts };
}
