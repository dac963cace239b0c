import { proxy } from "comlink";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import { phoneDesk, usePhone } from "../phones/phones.ts";
import { reportWords, stateWords } from "../phones/state-words.ts";
import { useJob, useSession } from "../session/use-session.ts";
import { whyHeld } from "../session/why-held.ts";
import { bytes, count } from "../shared/words.ts";
import type { PhonePart, PhoneView } from "../worker/phones/protocol.ts";
import { AppBackup } from "./AppBackup.tsx";
import { CopyPanel } from "./CopyPanel.tsx";
import { useCopy } from "./use-copy.ts";

/** The ticket's phone as a source: its shared storage or a raw partition, copied first or read directly. */
export function PhoneSource() {
  const session = useSession();
  const job = useJob();
  const phone = usePhone(job.phone);
  const copy = useCopy(job.id);
  const [busy, setBusy] = useState<string | null>(null);
  const [finding, setFinding] = useState(false);
  const silent = useSilence(finding ? busy : null);
  const [refusal, refuse] = useState<string | null>(null);
  const held = whyHeld(job.intake, job.facts);

  async function find(part: PhonePart): Promise<void> {
    if (!job.phone) return;
    refuse(null);
    setFinding(true);
    setBusy(part.kind === "shared" ? "Listing the shared storage…" : `Looking at ${part.name}…`);
    const found = await phoneDesk().find(
      job.id,
      job.phone,
      part,
      proxy((files: number) => setBusy(`Listing the shared storage, ${count(files)} files so far…`)),
    );
    setBusy(null);
    setFinding(false);
    if (!found.ok) refuse(found.because);
    else if (found.troubles.length > 0) refuse(found.troubles.join("; "));
  }

  async function readDirectly(): Promise<void> {
    if (!copy) return;
    setBusy("Looking at it…");
    refuse(await session.takePhonePart("phone", copy.name, copy.size));
    setBusy(null);
  }

  return (
    <section className="panel flex flex-col gap-3 p-4" aria-label="From the phone">
      <h2 className="text-lg font-bold">From the phone</h2>
      {!job.phone ? (
        <p>
          No phone is taken into this ticket.{" "}
          <Link to="../ways-in" className="underline">
            Ways in
          </Link>{" "}
          shows how its storage is reached.
        </p>
      ) : (
        <>
          <p>
            <strong role="status">{phone ? stateWords(phone) : "Nothing attached"}</strong>{" "}
            <span className="text-[13.5px] text-second">{phone ? reportWords(phone) : `Plug ${job.phone} in: it shows up by itself.`}</span>
          </p>
          {held ? (
            <p role="alert" className="rounded-field bg-warning px-3 py-2 text-warning-content">
              <strong>{held}</strong>
            </p>
          ) : copy ? (
            <CopyPanel copy={copy} phone={phone} onDirect={() => void readDirectly()} />
          ) : (
            phone && <Parts phone={phone} busy={busy !== null} onFind={(part) => void find(part)} />
          )}
        </>
      )}
      {busy && (
        <div className="flex flex-wrap items-center gap-3">
          <p role="status">
            {busy}
            {silent && " Nothing came for ten seconds: look at the cable, and whether the phone is locked or asks something."}
          </p>
          {finding && (
            <button type="button" className="button" onClick={() => void phoneDesk().stopFinding(job.id)}>
              Stop listing
            </button>
          )}
        </div>
      )}
      {refusal && (
        <p role="alert" className="rounded-field bg-warning px-3 py-2 text-warning-content">
          {refusal}
        </p>
      )}
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
