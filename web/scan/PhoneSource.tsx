import { proxy } from "comlink";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import type { PhoneView } from "../../core/phones/phone-view.ts";
import { PhoneLine } from "../phones/PhoneLine.tsx";
import { phoneDesk, usePhone } from "../phones/phones.ts";
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

  async function find(part: PhonePart): Promise<void> {
    if (!job.phone) return;
    refuse(null);
    setBusy(part.kind === "shared" ? "Listing the shared storage…" : `Looking at ${part.name}…`);
    const listed = (files: number) => setBusy(`Listing the shared storage, ${count(files)} files so far…`);
    const found = await phoneDesk().find(job.id, job.phone, part, proxy(listed));
    setBusy(null);
    if (!found.ok) return refuse(found.because);
    if (found.troubles.length > 0) refuse(found.troubles.join("; "));
    await session.reread();
    session.takeInHand(found.medium);
    onFound();
  }

  return (
    <section className="panel flex flex-col gap-3 p-4" aria-label="From the phone">
      <h2 className="text-lg font-bold">From the phone</h2>
      {job.phone ? (
        <>
          <PhoneLine phone={phone} serial={job.phone} />
          {held ? <Warning>{held}</Warning> : phone && <Parts phone={phone} busy={busy !== null} onFind={(part) => void find(part)} />}
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

/** What of the phone can be read now. */
function Parts({ phone, busy, onFind }: { phone: PhoneView; busy: boolean; onFind: (part: PhonePart) => void }) {
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
          <button type="button" className="button button-main" disabled={busy} onClick={() => onFind({ kind: "shared" })}>
            Take its shared storage
          </button>
          <span className="text-[13.5px] text-second">
            present files, bins and small copies; contacts, messages, calls and calendar as its providers tell them
          </span>
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
          <AppBackup phone={phone} />
        </li>
      )}
    </ul>
  );
}
