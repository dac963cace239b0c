import { useEffect, useMemo, useState } from "react";
import { Link } from "react-router";
import type { RecordKind } from "../../core/finds/record.ts";
import { cleanName } from "../../core/handover/names.ts";
import { type Forms, planPeople, USUAL_FORMS } from "../../core/handover/people/plan.ts";
import { type Folders, planFiles } from "../../core/handover/plan.ts";
import { useJob, useSession, useSessionState } from "../session/use-session.ts";
import type { ChosenPeople } from "../worker/finds/people-desk.ts";
import type { Found } from "../worker/finds/protocol.ts";
import { Proof } from "./Proof.tsx";
import { StillOpen } from "./StillOpen.tsx";
import { What } from "./What.tsx";
import { Where } from "./Where.tsx";

const NOBODY_CHOSEN: ChosenPeople = { entries: [], talks: [] };
/** Which choice of forms goes for a kind. */
const FORM_KINDS: Partial<Record<RecordKind, keyof Forms>> = {
  contact: "contacts",
  message: "messages",
  chat: "messages",
  call: "calls",
  event: "events",
};

/** What exactly goes where, in what form, and did it arrive intact? */
export function HandOverScreen() {
  const session = useSession();
  const job = useJob();
  const tray = useSessionState((state) => state.tray);
  const [finds, setFinds] = useState<readonly Found[] | null>(null);
  const [folders, setFolders] = useState<Folders>("kind");
  const [people, setPeople] = useState<ChosenPeople>(NOBODY_CHOSEN);
  const [forms, setForms] = useState(USUAL_FORMS);
  const files = useMemo(
    () => [...planFiles(finds ?? [], {}, folders), ...planPeople(people.entries, new Map(people.talks), forms, 0)],
    [finds, folders, people, forms],
  );
  const kinds = useMemo(() => new Set(people.entries.map(({ kind }) => FORM_KINDS[kind]).filter((kind) => kind !== undefined)), [people]);
  const folder = cleanName(`${job.number} ${job.customer}`.trim());

  useEffect(() => {
    let gone = false;
    void session.desks.index.findsOf([...tray]).then((found) => {
      if (!gone) setFinds(found);
    });
    void session.desks.index.peopleOf([...tray]).then((chosen) => {
      if (!gone) setPeople(chosen);
    });
    return () => {
      gone = true;
    };
  }, [session, tray]);

  if (tray.size === 0)
    return (
      <main className="p-10">
        <StillOpen />
        <h1 className="text-xl font-bold">The tray is empty.</h1>
        <p className="mt-1 text-second">Choose what the customer gets back at Finds: Space puts what you look at into the tray.</p>
        <Link to="../finds" className="button button-main mt-4">
          To the finds
        </Link>
      </main>
    );
  return (
    <main className="flex min-h-0 flex-1 flex-col gap-3 p-4">
      <h1 className="sr-only">Hand-over</h1>
      <StillOpen />
      <div className="grid min-h-0 flex-1 grid-cols-[1fr_1.2fr_1fr] gap-3">
        <What finds={finds} />
        <Where files={files} folder={folder} folders={folders} onFolders={setFolders} forms={forms} onForms={setForms} kinds={kinds} />
        <Proof />
      </div>
    </main>
  );
}
