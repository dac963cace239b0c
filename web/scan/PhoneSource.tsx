import { proxy } from "comlink";
import { useEffect, useRef, useState } from "react";
import { Link, useLocation, useNavigate } from "react-router";
import type { PhoneView } from "../../core/phones/phone-view.ts";
import { LOCKS, wantWords } from "../../core/triage/intake.ts";
import { settled } from "../../core/triage/settled.ts";
import { peopleWanted } from "../../core/wants/questions.ts";
import { Choice } from "../intake/Choice.tsx";
import { PhoneLine } from "../phones/PhoneLine.tsx";
import { phoneDesk, usePhone } from "../phones/phones.ts";
import { readTaken, showTaken } from "../session/taken-people.ts";
import { useJob, useSession } from "../session/use-session.ts";
import { whyHeld } from "../session/why-held.ts";
import { Warning } from "../shared/Warning.tsx";
import { bytes, count } from "../shared/words.ts";
import type { PhonePart } from "../worker/phones/protocol.ts";
import { AppBackup } from "./AppBackup.tsx";

/** The ticket's phone as a source: its shared storage or a raw partition becomes a medium of the ticket. */
export function PhoneSource({ onFound }: { onFound: () => void }) {
  const session = useSession();
  const job = useJob();
  const phone = usePhone(job.phone);
  const [busy, setBusy] = useState<string | null>(null);
  const [refusal, refuse] = useState<string | null>(null);
  const silent = useSilence(busy);
  const held = whyHeld(job.intake, job.facts);
  /** Whether it is locked was not said yet: that is asked here, so that nobody has to go back for it. */
  const isLockOpen = phone !== null && settled(job.intake, job.facts).lock === null;
  const navigate = useNavigate();
  // The panel goes as soon as the ticket has a medium: the screen is what counts.
  const isHere = () => window.location.pathname === `/ticket/${job.id}/scan`;

  async function find(part: PhonePart): Promise<void> {
    if (!job.phone) return;
    refuse(null);
    const words = beginning(part);
    setBusy(`${words}…`);
    const known = (number: number) => setBusy(`${words}, ${count(number)} ${part.kind === "people" ? "rows" : "files"} so far…`);
    const found = await phoneDesk().find(job.id, job.phone, part, proxy(known));
    if (!found.ok) {
      setBusy(null);
      return refuse(found.because);
    }
    await session.reread();
    session.takeInHand(found.medium);
    if (found.isCopied) {
      setBusy("Reading what came…");
      await session.setOlderAside(found.medium);
      const because = await readTaken(session, found.medium);
      setBusy(null);
      if (because !== null) return refuse(because);
      // Whoever went on to something else meanwhile is left there.
      if (isHere()) void showTaken(session, navigate);
      return;
    }
    setBusy(null);
    if (found.troubles.length > 0) refuse(found.troubles.join("; "));
    onFound();
  }
  useTakenAtOnce(phone?.state === "ready" && !held, () => void find({ kind: "people" }));

  return (
    <section className="panel flex flex-col gap-3 p-4" aria-label="From the phone">
      <h2 className="text-lg font-bold">From the phone</h2>
      {job.phone ? (
        <>
          <PhoneLine phone={phone} serial={job.phone} />
          {isLockOpen && <LockQuestion />}
          {held && !isLockOpen && <Warning>{held}</Warning>}
          {!held && phone && <Parts phone={phone} busy={busy !== null} onFind={(part) => void find(part)} onTaken={onFound} />}
        </>
      ) : (
        <p>
          No phone is taken into this ticket.{" "}
          <Link to="../ways-in" className="underline">
            Ways in
          </Link>{" "}
          shows how its storage is reached.
        </p>
      )}
      {busy && (
        <div className="flex flex-wrap items-center gap-3">
          <p role="status">
            {busy}
            {silent && " Nothing came for ten seconds: look at the cable, and whether the phone is locked or asks something."}
          </p>
          <button type="button" className="button" onClick={() => void phoneDesk().stopFinding(job.id)}>
            Stop listing
          </button>
        </div>
      )}
      {refusal && <Warning>{refusal}</Warning>}
    </section>
  );
}

const beginning = (part: PhonePart): string =>
  part.kind === "people"
    ? "Asking for contacts, messages, calls and calendar"
    : part.kind === "shared"
      ? "Listing the shared storage"
      : `Looking at ${part.name}`;

/** A locked phone is opened only with its owner's consent: the one question that must be answered before anything is asked of it. */
function LockQuestion() {
  const session = useSession();
  return (
    <div className="rounded-box bg-glow p-3">
      <Choice question="Was it locked when it came?" answers={LOCKS} chosen={[]} onChange={(lock) => session.changeIntake({ lock })} />
    </div>
  );
}

/** Whoever came here by "Take contacts …" has asked already: it begins by itself, once, when the phone can be asked. */
function useTakenAtOnce(canBegin: boolean, begin: () => void): void {
  const { state, pathname } = useLocation();
  const navigate = useNavigate();
  const isAsked = (state as { take?: unknown } | null)?.take === "people";
  const begun = useRef(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: it begins once.
  useEffect(() => {
    if (!isAsked || !canBegin || begun.current) return;
    begun.current = true;
    // Whoever comes back here, or loads the page again, does not ask again.
    void navigate(pathname, { replace: true, state: null });
    begin();
  }, [isAsked, canBegin]);
}

/** Milliseconds without a word after which that is said. */
const SILENCE = 10_000;

/** Has the same been said for ten seconds? Null: nothing is waited for. */
function useSilence(words: string | null): boolean {
  const [silent, setSilent] = useState(false);
  useEffect(() => {
    setSilent(false);
    if (words === null) return;
    const late = setTimeout(() => setSilent(true), SILENCE);
    return () => clearTimeout(late);
  }, [words]);
  return silent;
}

interface PartsProps {
  readonly phone: PhoneView;
  readonly busy: boolean;
  readonly onFind: (part: PhonePart) => void;
  /** Something else came of it, and is a medium of the ticket. */
  readonly onTaken: () => void;
}

/** What of the phone can be read now. */
function Parts({ phone, busy, onFind, onTaken }: PartsProps) {
  const wanted = useJob().intake.wants.filter((want) => peopleWanted(want) !== null && want.kind !== "any kind");
  const shared = phone.state === "ready";
  if (!shared && phone.partitions.length === 0)
    return (
      <p>
        Nothing of it can be read yet.{" "}
        <Link to="../ways-in" className="underline">
          Ways in
        </Link>{" "}
        says what is missing.
      </p>
    );
  return (
    <ul className="flex flex-col gap-2">
      {shared && (
        <li className="flex items-baseline gap-3">
          <button
            type="button"
            className={`button shrink-0 ${wanted.length > 0 ? "button-lamp" : "button-main"}`}
            disabled={busy}
            onClick={() => onFind({ kind: "people" })}
          >
            Take contacts, messages, calls, calendar
          </button>
          <span className="text-[13.5px] text-second">
            {wanted.length > 0
              ? `what is asked for: ${wanted.map(wantWords).join(", ")}; about a minute`
              : "as the phone's own providers tell them, hidden contacts too; about a minute"}
          </span>
        </li>
      )}
      {shared && (
        <li className="flex items-baseline gap-3">
          <button type="button" className="button button-main shrink-0" disabled={busy} onClick={() => onFind({ kind: "shared" })}>
            Take its shared storage
          </button>
          <span className="text-[13.5px] text-second">present files, bins and small copies</span>
        </li>
      )}
      {phone.partitions.map(({ name, size }) => (
        <li key={name} className="flex items-baseline gap-3">
          <button type="button" className="button button-main" disabled={busy} onClick={() => onFind({ kind: "partition", name })}>
            Take partition {name}
          </button>
          <span className="text-[13.5px] text-second">{bytes(size)} raw, erased things too</span>
        </li>
      ))}
      {shared && (
        <li>
          <AppBackup phone={phone} onTaken={onTaken} />
        </li>
      )}
    </ul>
  );
}
