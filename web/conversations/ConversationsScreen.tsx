import { useState } from "react";
import { appOf } from "../../core/stores/people/app.ts";
import type { Narrow, TalkView } from "../../core/stores/people/questions.ts";
import { Inspector } from "../finds/Inspector.tsx";
import { Tray } from "../finds/Tray.tsx";
import { ALL_ENTRIES, EntryFilters, isFiltered } from "../people/EntryFilters.tsx";
import { PeopleBar } from "../people/PeopleBar.tsx";
import { PeopleDays } from "../people/PeopleDays.tsx";
import { useNarrowed } from "../people/use-narrowed.ts";
import { usePeople } from "../people/use-people.ts";
import { useSession } from "../session/use-session.ts";
import { Viewer } from "../viewer/Viewer.tsx";
import type { PersonEntry } from "../worker/finds/people-desk.ts";
import type { Found } from "../worker/finds/protocol.ts";
import { MayBeMessages } from "./MayBeMessages.tsx";
import { MessageFacts } from "./MessageFacts.tsx";
import { AppChoice, OrderChoice } from "./TalkChoices.tsx";
import { TalkList } from "./TalkList.tsx";
import { Thread } from "./Thread.tsx";
import { ordered, type TalkOrder } from "./talk-order.ts";
import { useApps } from "./use-apps.ts";

/** What did they write to each other? People on the left, both sides in the middle, and beside them why we think so. */
export function ConversationsScreen() {
  const session = useSession();
  const narrowed = useNarrowed();
  const { words, days, who } = narrowed;
  const [filter, setFilter] = useState(ALL_ENTRIES);
  const narrow: Narrow = { words, days, who, ...filter };
  const question = JSON.stringify(narrow);
  const [chosen, setChosen] = useState<string | null>(null);
  const [message, setMessage] = useState<PersonEntry | null>(null);
  const all = usePeople((desk) => desk.talks(narrow), question);
  const facets = usePeople((desk) => desk.messageFacets(narrow), question);
  const apps = useApps(all);
  const [app, setApp] = useState<string | null>(null);
  const isOfApp = (one: TalkView) => app === null || !apps.some(({ key }) => key === app) || appOf(one) === app;
  const [order, setOrder] = useState<TalkOrder>("latest");
  const talks = all && ordered(all.filter(isOfApp), order);
  const talk = talks?.find(({ key }) => key === chosen) ?? talks?.[0] ?? null;
  const isNarrow = Boolean(words || days || who) || isFiltered(filter);
  const [opened, setOpened] = useState<Found | null>(null);
  const open = (find: Found) => {
    session.store.setState({ selected: find });
    setOpened(find);
  };
  const keys = async (of: Narrow) => (await session.desks.people).keysOf(talk?.key ?? "", of);
  /** Where something is asked for, what fits it; a conversation that is only called so is meant as a whole. */
  const isPart = isNarrow && (talk?.hits ?? 0) > 0;
  return (
    <main className="flex min-h-0 flex-1 flex-col">
      <h1 className="sr-only">Conversations</h1>
      <div className="flex min-h-0 flex-1 flex-col gap-2 px-4 pt-3 pb-3">
        <PeopleBar narrowed={narrowed} placeholder="Names, numbers and words" />
        {facets?.span && <PeopleDays facets={facets} narrowed={narrowed} what="messages" />}
        <div className="flex flex-wrap items-center gap-2" role="toolbar" aria-label="State, condition, app and order">
          <EntryFilters facets={facets} filter={filter} onFilter={setFilter} />
          <span className="ml-auto" />
          <AppChoice apps={apps} app={app} onApp={setApp} />
          <OrderChoice order={order} onOrder={setOrder} />
        </div>
        <MayBeMessages />
        {talks?.length === 0 && !isNarrow ? (
          <p className="panel p-8 text-second">
            No conversation was found yet. They come when the databases of the storage are read, last in a scan.
          </p>
        ) : (
          <div className="flex min-h-0 flex-1 gap-3">
            <TalkList
              talks={talks}
              chosen={talk?.key ?? null}
              narrow={isNarrow ? narrow : null}
              apps={apps}
              app={app}
              onChoose={(key) => {
                setChosen(key);
                setMessage(null);
              }}
            />
            {talk && (
              <Thread key={talk.key} talk={talk} narrow={narrow} selected={message?.key ?? null} onSelect={setMessage} onOpen={open} />
            )}
            {talk && (
              <MessageFacts
                talk={talk}
                message={message}
                onAll={() => void keys({ words: "" }).then((some) => session.choose(some, true))}
              />
            )}
          </div>
        )}
      </div>
      {opened && <Viewer find={opened} isAlone facts={<Inspector find={opened} />} onClose={() => setOpened(null)} />}
      <Tray all={{ count: (isPart ? talk?.hits : talk?.messages) ?? 0, keys: () => keys(isPart ? narrow : { words: "" }) }} />
    </main>
  );
}
