import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { PracticeButton } from "../practice/PracticeButton.tsx";
import { lookAt, newTicket } from "../session/offered.ts";
import { useOffer } from "../session/use-offer.ts";
import { DropZone } from "../shared/DropZone.tsx";
import { useSlashSearch } from "../shared/use-slash-search.ts";
import { Lamp } from "../shell/Lamp.tsx";
import { ThemeSwitch } from "../shell/ThemeSwitch.tsx";
import { AttachedPhones, FindPhone } from "./AttachedPhones.tsx";
import { JobsTable } from "./JobsTable.tsx";
import { MediumCard } from "./MediumCard.tsx";
import { useAttachedMedia } from "./media.ts";

/** What is on the bench, and what am I in the middle of? */
export function BenchScreen() {
  const navigate = useNavigate();
  const media = useAttachedMedia();
  const [words, setWords] = useState("");
  const search = useSlashSearch();

  const { busy, refusal, take } = useOffer(async (offered) => {
    const looked = await lookAt(offered);
    if (!looked.ok) return looked.because;
    navigate(`/ticket/${await newTicket(looked, offered.ticket)}/scan`);
    return null;
  });

  return (
    <div className="flex h-full flex-col">
      <header className="flex h-15 shrink-0 items-center gap-3 border-b border-line bg-base-100 px-5">
        <Lamp />
        <h1 className="text-2xl font-bold">Jubar</h1>
        <label className="ml-auto flex h-9 w-72 items-center gap-2 rounded-field border border-line bg-base-100 px-3 focus-within:outline-2 focus-within:outline-ink">
          <span className="sr-only">Search all jobs</span>
          <input
            ref={search}
            className="min-w-0 flex-1 bg-transparent outline-none placeholder:text-second"
            placeholder="Search all jobs"
            value={words}
            onChange={(event) => setWords(event.target.value)}
          />
          <kbd className="key">/</kbd>
        </label>
        <Link to="/models" className="button">
          Model cards
        </Link>
        <PracticeButton />
        <ThemeSwitch />
      </header>
      <main className="flex min-h-0 flex-1 flex-col overflow-y-auto">
        <section className="grid shrink-0 grid-cols-[1fr_18rem] gap-5 border-b-8 border-band bg-base-300 p-4" aria-label="On the bench">
          <div className="relative flex flex-wrap content-start gap-3 pb-2" role="group" aria-label="Plugged in now">
            <span className="pool pointer-events-none absolute top-20 left-0 h-44 w-[32rem]" aria-hidden="true" />
            <AttachedPhones alone={media.length === 0} />
            {media.map((medium) => (
              <MediumCard
                key={medium.id}
                medium={medium}
                busy={busy !== null}
                onStart={() =>
                  void take({
                    grant: { kind: "url", url: medium.url, name: medium.name, size: medium.size },
                    ticket: medium.ticket ?? undefined,
                  })
                }
              />
            ))}
          </div>
          <div className="flex flex-col gap-3 [&>:first-child]:flex-1">
            <DropZone busy={busy} refusal={refusal} onOffer={(offered) => void take(offered)} />
            <FindPhone />
          </div>
        </section>
        <JobsTable words={words} onNew={() => void newTicket(null).then((id) => navigate(`/ticket/${id}/intake`))} />
      </main>
    </div>
  );
}
