import { ArrowDownUp, ArrowLeft, Paperclip } from "lucide-react";
import { useEffect, useState } from "react";
import { useNavigate, useParams } from "react-router";
import type { RecordCondition, RecordKind, RecordState } from "../../core/finds/record.ts";
import { appOf } from "../../core/stores/people/app.ts";
import type { PersonQuery } from "../../core/stores/people/questions.ts";
import { useAppNames } from "../conversations/use-apps.ts";
import { Days } from "../finds/Days.tsx";
import { FilterChip } from "../finds/FilterChip.tsx";
import { toggled } from "../finds/filters.ts";
import { Inspector } from "../finds/Inspector.tsx";
import { Tray } from "../finds/Tray.tsx";
import { EntryFilters } from "../people/EntryFilters.tsx";
import { EntryList } from "../people/EntryList.tsx";
import { usePeople } from "../people/use-people.ts";
import { useSession } from "../session/use-session.ts";
import { SearchField } from "../shared/SearchField.tsx";
import { Viewer } from "../viewer/Viewer.tsx";
import type { PersonEntry } from "../worker/finds/people-desk.ts";
import type { Found } from "../worker/finds/protocol.ts";
import { EntryCard } from "./EntryCard.tsx";
import { PersonHead } from "./PersonHead.tsx";
import { PersonLine } from "./PersonLine.tsx";
import { CHIPS } from "./person-words.ts";
import { WhoThisIs } from "./WhoThisIs.tsx";

const ALL = {
  kinds: [] as readonly RecordKind[],
  states: [] as readonly RecordState[],
  conditions: [] as readonly RecordCondition[],
  days: null,
  words: "",
  apps: [] as readonly string[],
  files: false,
  earliest: false,
};
const LINE = 44;

/** All that the ticket's storage knows about one person, on one line of time. */
export function PersonScreen() {
  const { address = "" } = useParams();
  return <OnePerson key={address} address={address} />;
}

function OnePerson({ address }: { address: string }) {
  const session = useSession();
  const navigate = useNavigate();
  const [filters, setFilters] = useState<Omit<PersonQuery, "key">>(ALL);
  const [selected, setSelected] = useState<PersonEntry | null>(null);
  const [opened, setOpened] = useState<Found | null>(null);
  const query: PersonQuery = { ...filters, key: address };
  const question = JSON.stringify(query);
  const answer = usePeople(async (desk) => ({ told: await desk.askPerson(query) }), question);
  const told = answer?.told ?? null;
  const apps = [...new Set([...Object.keys(told?.apps ?? {}), ...filters.apps])].sort();
  const called = useAppNames(apps);
  // The first answer is of everything: filters that leave one app over do not change what the chips are.
  const [hasApps, setHasApps] = useState(false);
  useEffect(() => setHasApps((had) => had || apps.length > 1), [apps.length]);
  const missingFiles = usePeople(() => session.desks.index.missingFiles({ ...ALL, key: address }), address);
  const narrow = (change: Partial<typeof filters>) => setFilters({ ...filters, ...change });
  const keys = async (more: Partial<PersonQuery> = {}) => (await session.desks.people).keysOfPerson({ ...query, ...more });
  return (
    <main className="flex min-h-0 flex-1 flex-col">
      <div className="flex min-h-0 flex-1 flex-col gap-2 px-4 pt-3 pb-3">
        <div className="flex items-center gap-3">
          <button type="button" className="button" onClick={() => void navigate(-1)}>
            <ArrowLeft className="size-4" aria-hidden="true" /> Back
          </button>
          {told ? (
            <PersonHead person={told.person}>
              <SearchField
                label="Words in it"
                placeholder="Words in it"
                value={filters.words}
                onChange={(words) => narrow({ words })}
                className="w-40"
              />
              <button type="button" className="chip" onClick={() => narrow({ earliest: !filters.earliest })}>
                <ArrowDownUp className="size-4" aria-hidden="true" /> {filters.earliest ? "earliest first" : "newest first"}
              </button>
            </PersonHead>
          ) : (
            <h1 className="text-lg font-bold">{answer ? "Nobody is known so" : "…"}</h1>
          )}
        </div>
        {answer && !told && (
          <p className="panel p-8 text-second">
            Nothing that was found is of {address}. It may be called otherwise after a new scan: go back and open it anew.
          </p>
        )}
        {told && (
          <>
            <Days days={told.days} span={told.span} range={filters.days} onRange={(range) => narrow({ days: range })} />
            <div className="flex flex-wrap items-center gap-2" role="toolbar" aria-label="What of it">
              {/* Where messages are of several apps these are told apart, and not by their kind. */}
              {hasApps &&
                apps.map((app) => (
                  <FilterChip
                    key={app}
                    isOn={filters.apps.includes(app)}
                    finds={told.apps[app]}
                    onToggle={() => narrow({ apps: toggled(filters.apps, app) })}
                  >
                    {called(app)}
                  </FilterChip>
                ))}
              {CHIPS.filter(([kind]) => !hasApps || (kind !== "message" && kind !== "chat"))
                .filter(([kind]) => (told.kinds[kind] ?? 0) > 0 || filters.kinds.includes(kind))
                .map(([kind, words]) => (
                  <FilterChip
                    key={kind}
                    isOn={filters.kinds.includes(kind)}
                    finds={told.kinds[kind]}
                    onToggle={() => narrow({ kinds: toggled(filters.kinds, kind) })}
                  >
                    {words}
                  </FilterChip>
                ))}
              {(told.files > 0 || filters.files) && (
                <FilterChip isOn={filters.files} finds={told.files} onToggle={() => narrow({ files: !filters.files })}>
                  <Paperclip className="size-4" aria-hidden="true" /> with files
                </FilterChip>
              )}
              <EntryFilters facets={told} filter={filters} onFilter={({ states, conditions }) => narrow({ states, conditions })} />
            </div>
            <div className="flex min-h-0 flex-1 gap-3">
              <section className="panel flex min-w-0 flex-1 flex-col overflow-hidden" aria-label="Time line">
                {told.total === 0 ? (
                  <p className="p-4 text-second">Nothing fits that.</p>
                ) : (
                  <EntryList
                    label="Time line"
                    total={told.total}
                    question={`${question} ${told.total}`}
                    height={LINE}
                    selected={selected?.key ?? null}
                    onSelect={setSelected}
                    line={(entry) => <PersonLine entry={entry} words={filters.words} app={called(appOf(entry))} />}
                  />
                )}
              </section>
              {selected ? (
                <EntryCard entry={selected} onBack={() => setSelected(null)} onOpen={setOpened} />
              ) : (
                <WhoThisIs
                  person={told.person}
                  skipped={told.skipped}
                  missingFiles={missingFiles}
                  erased={told.states.erased ?? 0}
                  onErased={() => void keys({ states: ["erased"] }).then((some) => session.choose(some, true))}
                />
              )}
            </div>
          </>
        )}
      </div>
      {opened && <Viewer find={opened} isAlone facts={<Inspector find={opened} />} onClose={() => setOpened(null)} />}
      <Tray all={{ count: told?.total ?? 0, keys }} />
    </main>
  );
}
