import { type ReactNode, useState } from "react";
import type { RecordState } from "../../core/finds/record.ts";
import type { PeopleQuery } from "../../core/stores/people/questions.ts";
import { Tray } from "../finds/Tray.tsx";
import { useSession } from "../session/use-session.ts";
import type { PersonEntry } from "../worker/finds/people-desk.ts";
import { ALL_ENTRIES, EntryFilters, isFiltered } from "./EntryFilters.tsx";
import { EntryList } from "./EntryList.tsx";
import { PeopleBar } from "./PeopleBar.tsx";
import { PeopleDays } from "./PeopleDays.tsx";
import { useNarrowed } from "./use-narrowed.ts";
import { usePeople } from "./use-people.ts";

interface Props {
  readonly kind: PeopleQuery["kind"];
  readonly title: string;
  readonly placeholder: string;
  readonly height: number;
  readonly line: (entry: PersonEntry) => ReactNode;
  /** What stands beside the list, for one of it. */
  readonly card: (entry: PersonEntry) => ReactNode;
  /** What else the list is looked at by, behind the states. */
  readonly beside?: ReactNode;
  /** What is said over the list, by how many there are in each state. */
  readonly above?: (states: Partial<Record<RecordState, number>>) => ReactNode;
}

/** Contacts, calls or the calendar: states as chips with their counts, the list, and one of it beside. */
export function EntryRoom({ kind, title, placeholder, height, line, card, beside, above }: Props) {
  const session = useSession();
  const narrowed = useNarrowed();
  const { words, days, who } = narrowed;
  const [filter, setFilter] = useState(ALL_ENTRIES);
  const [selected, setSelected] = useState<PersonEntry | null>(null);
  const query = { kind, ...filter, words, days, who };
  const question = JSON.stringify(query);
  const answer = usePeople((desk) => desk.ask(query), question);
  const keys = async () => (await session.desks.people).answerKeys();
  return (
    <main className="flex min-h-0 flex-1 flex-col">
      <h1 className="sr-only">{title}</h1>
      <div className="flex min-h-0 flex-1 flex-col gap-2 px-4 pt-3 pb-3">
        <PeopleBar narrowed={narrowed} placeholder={placeholder} />
        {/* What has no days, as cards have none, has no axis of them. */}
        {answer?.span && <PeopleDays facets={answer} narrowed={narrowed} what={title.toLowerCase()} />}
        <div className="flex flex-wrap items-center gap-2" role="toolbar" aria-label="State and condition">
          <EntryFilters facets={answer} filter={filter} onFilter={setFilter} />
          {beside}
        </div>
        <div className="flex min-h-0 flex-1 gap-3">
          <section className="panel flex min-w-0 flex-1 flex-col overflow-hidden" aria-label={title}>
            {answer && above?.(answer.states)}
            {answer === null && <p className="p-4 text-second">Looking them up…</p>}
            {answer?.total === 0 && (
              <p className="p-4 text-second">
                {words || who || days || isFiltered(filter)
                  ? "Nothing fits that."
                  : "None was found yet. They come when the databases of the storage are read, last in a scan."}
              </p>
            )}
            {answer && answer.total > 0 && (
              <EntryList
                label={title}
                total={answer.total}
                question={`${question} ${answer.total}`}
                height={height}
                selected={selected?.key ?? null}
                onSelect={setSelected}
                line={line}
              />
            )}
          </section>
          {selected && card(selected)}
        </div>
      </div>
      <Tray all={{ count: answer?.total ?? 0, keys }} />
    </main>
  );
}
