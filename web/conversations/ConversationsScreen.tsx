import { useState } from "react";
import type { TalkView } from "../../core/stores/people/questions.ts";
import { Inspector } from "../finds/Inspector.tsx";
import { Tray } from "../finds/Tray.tsx";
import { PeopleBar } from "../people/PeopleBar.tsx";
import { useNarrowed } from "../people/use-narrowed.ts";
import { usePeople } from "../people/use-people.ts";
import { useSession } from "../session/use-session.ts";
import { Viewer } from "../viewer/Viewer.tsx";
import type { PersonEntry } from "../worker/finds/people-desk.ts";
import type { Found } from "../worker/finds/protocol.ts";
import { MayBeMessages } from "./MayBeMessages.tsx";
import { MessageFacts } from "./MessageFacts.tsx";
import { TalkList } from "./TalkList.tsx";
import { Thread } from "./Thread.tsx";
import { appOf, useApps } from "./use-apps.ts";

/** What did they write to each other? People on the left, both sides in the middle, and beside them why we think so. */
export function ConversationsScreen() {
  const session = useSession();
  const narrowed = useNarrowed();
  const { words, days, who } = narrowed;
  const [withErased, setWithErased] = useState(false);
  const [chosen, setChosen] = useState<string | null>(null);
  const [message, setMessage] = useState<PersonEntry | null>(null);
  const all = usePeople((desk) => desk.talks({ words, days, who }), JSON.stringify([words, days, who]));
  const apps = useApps(all);
  const [app, setApp] = useState<string | null>(null);
  const isOfApp = (one: TalkView) => app === null || !apps.some(({ key }) => key === app) || appOf(one) === app;
  const talks = all?.filter((one) => (!withErased || one.erased > 0) && isOfApp(one)) ?? null;
  const talk = talks?.find(({ key }) => key === chosen) ?? talks?.[0] ?? null;
  const erased = all?.filter((one) => one.erased > 0).length ?? 0;
  const [opened, setOpened] = useState<Found | null>(null);
  const open = (find: Found) => {
    session.store.setState({ selected: find });
    setOpened(find);
  };
  const keys = async () => (await session.desks.people).keysOf(talk?.key ?? "");
  return (
    <main className="flex min-h-0 flex-1 flex-col">
      <h1 className="sr-only">Conversations</h1>
      <div className="flex min-h-0 flex-1 flex-col gap-2 px-4 pt-3 pb-3">
        <PeopleBar narrowed={narrowed} placeholder="Names, numbers and words" />
        <MayBeMessages />
        {talks?.length === 0 && !words && !days && !who && !withErased ? (
          <p className="panel p-8 text-second">
            No conversation was found yet. They come when the databases of the storage are read, last in a scan.
          </p>
        ) : (
          <div className="flex min-h-0 flex-1 gap-3">
            <TalkList
              talks={talks}
              chosen={talk?.key ?? null}
              isNarrow={Boolean(words || days || who)}
              erased={erased}
              apps={apps}
              app={app}
              onApp={setApp}
              withErased={withErased}
              onWithErased={setWithErased}
              onChoose={(key) => {
                setChosen(key);
                setMessage(null);
              }}
            />
            {talk && (
              <Thread
                key={talk.key}
                talk={talk}
                words={words}
                days={days}
                selected={message?.key ?? null}
                onSelect={setMessage}
                onOpen={open}
              />
            )}
            {talk && <MessageFacts talk={talk} message={message} onAll={() => void keys().then((some) => session.choose(some, true))} />}
          </div>
        )}
      </div>
      {opened && <Viewer find={opened} isAlone facts={<Inspector find={opened} />} onClose={() => setOpened(null)} />}
      <Tray all={{ count: talk?.messages ?? 0, keys }} />
    </main>
  );
}
