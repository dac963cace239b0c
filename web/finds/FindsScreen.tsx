import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { findsWanted } from "../../core/wants/questions.ts";
import { showWant } from "../session/show-want.ts";
import { useSession, useSessionState } from "../session/use-session.ts";
import { Viewer } from "../viewer/Viewer.tsx";
import { BackToTicket } from "./BackToTicket.tsx";
import { Days } from "./Days.tsx";
import { FactFilters } from "./FactFilters.tsx";
import { Folders } from "./Folders.tsx";
import { Inspector } from "./Inspector.tsx";
import { KindFilters } from "./KindFilters.tsx";
import { NothingFound } from "./NothingFound.tsx";
import { StateFilters } from "./StateFilters.tsx";
import { Tray } from "./Tray.tsx";
import { Wall } from "./Wall.tsx";

/** Is what they asked for here? Is it any good? Which copy is best? */
export function FindsScreen() {
  const session = useSession();
  const query = useSessionState((state) => state.query);
  const answer = useSessionState((state) => state.answer);
  const selected = useSessionState((state) => state.selected);
  const isWritten = useSessionState(({ behind }) => behind !== null);
  const [opened, setOpened] = useState(false);
  const [tree, setTree] = useState(query.folder !== null);
  const [facts, setFacts] = useState(false);
  const navigate = useNavigate();
  // What they came for is shown first.
  useEffect(() => {
    const want = isWritten ? null : session.takeFirstWant();
    if (want) void showWant(session, want, findsWanted(want) !== null, (path, told) => navigate(path, { replace: true, ...told }));
  }, [session, isWritten, navigate]);
  return (
    <main className="flex min-h-0 flex-1 flex-col">
      <div className="flex min-h-0 flex-1 flex-col gap-2 px-4 pt-3">
        <Days days={answer?.days ?? []} span={answer?.span ?? null} range={query.days} onRange={(days) => void session.ask({ days })} />
        <KindFilters tree={tree} onTree={() => setTree(!tree)} facts={facts} onFacts={() => setFacts(!facts)} />
        <StateFilters tree={tree} facts={facts} />
        {facts && <FactFilters />}
        <div className="flex min-h-0 flex-1 gap-3.5">
          {tree && <Folders />}
          {answer && answer.total === 0 ? <NothingFound /> : <Wall onOpen={() => setOpened(true)} />}
          <Inspector find={selected} onOpen={() => setOpened(true)} />
        </div>
      </div>
      {isWritten ? <BackToTicket /> : <Tray />}
      {opened && selected && <Viewer find={selected} facts={<Inspector find={selected} />} onClose={() => setOpened(false)} />}
    </main>
  );
}
