import { ArrowLeft } from "lucide-react";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { type ByHand, NOTHING_SAID } from "../../core/stores/mapping/by-hand.ts";
import { useOpened } from "../session/use-opened.ts";
import { useSession } from "../session/use-session.ts";
import { count, nameOf } from "../shared/words.ts";
import type { MeaningAnswer } from "../worker/reading/meaning-protocol.ts";
import { KeepBar } from "./KeepBar.tsx";
import { SoItReads } from "./SoItReads.tsx";
import { WhatItMeans } from "./WhatItMeans.tsx";

/** May I trust how this messenger is read? What each column is taken for, put right by hand, and how it then reads. */
export function MeaningScreen() {
  const { find: id = "" } = useParams();
  const session = useSession();
  const [said, setSaid] = useState<ByHand>(NOTHING_SAID);
  const [isReading, setIsReading] = useState(false);
  const { find, opening, setAnswer } = useOpened<MeaningAnswer>(id, (tell) => {
    setSaid(NOTHING_SAID);
    return session.desks.reading.openMeaning(id, tell);
  });

  /** Reads it with what is said now. What was proposed for the other columns of this table stays open. */
  const say = (next: ByHand) => {
    setSaid(next);
    setIsReading(true);
    void session.desks.reading.readMeaning(next).then((answer) => {
      setIsReading(false);
      if (answer) setAnswer(answer);
    });
  };
  const answer = opening.state === "open" ? opening.answer : null;
  return (
    <main className="flex min-h-0 flex-1 flex-col">
      <div className="flex min-h-0 flex-1 flex-col gap-2.5 px-4 pt-3 pb-3">
        <div className="flex items-center gap-3">
          <Link to="../finds/conversations" className="button h-8">
            <ArrowLeft className="size-4" aria-hidden="true" /> Conversations
          </Link>
          <h1 className="min-w-0 truncate text-lg font-bold">
            {find ? nameOf(find) : "…"} <span className="font-normal text-second">{find?.path ?? ""}</span>
          </h1>
          <p className="ml-auto text-second whitespace-nowrap" role="status">
            {opening.state === "reading" && `Reading all pages: ${Math.floor(opening.part * 100)} %`}
            {isReading && "Reading it anew…"}
            {answer && !isReading && `${count(answer.rows)} rows · ${count(answer.erased)} erased`}
          </p>
        </div>
        {opening.state === "failed" && (
          <p role="alert" className="rounded-box bg-warning px-4 py-3 text-warning-content">
            <strong>{opening.because}</strong>
          </p>
        )}
        {opening.state === "reading" && <div className="panel min-h-0 flex-1 animate-pulse" />}
        {answer && (
          <div className="flex min-h-0 flex-1 gap-3">
            <WhatItMeans answer={answer} said={said} onSay={say} />
            <SoItReads answer={answer} />
          </div>
        )}
      </div>
      {answer && <KeepBar answer={answer} said={said} />}
    </main>
  );
}
