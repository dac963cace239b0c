import { proxy } from "comlink";
import { useRef, useState } from "react";
import type { PhoneView } from "../../core/phones/phone-view.ts";
import type { Step } from "../../core/triage/sights.ts";
import { phoneDesk } from "../phones/phones.ts";
import { FileField } from "../shared/FileField.tsx";
import type { Outcome } from "../worker/storage/grant.ts";

type Does = NonNullable<Step["does"]>;

const BUTTON: Readonly<Record<Does, string>> = {
  "ask again": "Ask again",
  "take elevated access": "Take elevated access",
  "start recovery": "Choose the recovery image…",
  repair: "Choose the system image…",
  "bring key": "Choose the key file…",
};
/** Steps that a file is needed for. */
const TAKES_FILE: readonly Does[] = ["start recovery", "repair", "bring key"];
const MAX_FILE = 256 * 1024 * 1024;

/** What Jubar itself does at a step, when the person asks it to. Refusals are said where they happen. */
export function StepAction({ does, phone }: { does: Does; phone: PhoneView | null }) {
  const file = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState<string | null>(null);
  const [refusal, refuse] = useState<string | null>(null);
  const [good, setGood] = useState<string | null>(null);

  async function act(chosen: File | null): Promise<void> {
    refuse(null);
    setGood(null);
    setBusy(does === "take elevated access" ? "Look at the phone: it may ask. Allow it there." : "Working…");
    const outcome = await perform(does, phone, chosen, (part) =>
      setBusy(`Writing, ${Math.round(part * 100)} %: do not pull the cable.`),
    ).catch((cause: unknown): Outcome => ({ ok: false, because: cause instanceof Error ? cause.message : String(cause) }));
    setBusy(null);
    if (!outcome.ok) refuse(outcome.because);
    else if (does === "bring key") setGood("The key is here: phones that know it let this computer in.");
  }

  const takesFile = TAKES_FILE.includes(does);
  return (
    <div className="mt-2">
      {takesFile && <FileField field={file} label={BUTTON[does]} onFile={(chosen) => void act(chosen)} />}
      <button
        type="button"
        className="button button-lamp"
        disabled={busy !== null || (does !== "bring key" && !phone)}
        onClick={() => (takesFile ? file.current?.click() : void act(null))}
      >
        {BUTTON[does]}
      </button>
      {busy && does !== "ask again" && (
        <p role="status" className="mt-1 text-[13.5px]">
          {busy}
        </p>
      )}
      {good && (
        <p role="status" className="mt-1 text-[13.5px]">
          {good}
        </p>
      )}
      {refusal && (
        <p role="alert" className="mt-2 rounded-field border-2 border-ink bg-base-100 px-3 py-2 font-semibold">
          {refusal}
        </p>
      )}
    </div>
  );
}

async function perform(does: Does, phone: PhoneView | null, file: File | null, progress: (part: number) => void): Promise<Outcome> {
  const desk = phoneDesk();
  if (file && file.size > MAX_FILE) return { ok: false, because: `${file.name} is too large to be such an image.` };
  if (does === "bring key") return file ? desk.bringKey(await file.text(), file.name) : { ok: true };
  if (!phone) return { ok: false, because: "The phone is not attached." };
  const content = async () => new Uint8Array(file ? await file.arrayBuffer() : []);
  switch (does) {
    case "ask again":
      await desk.askAgain(phone.id);
      return { ok: true };
    case "take elevated access":
      return desk.takeElevatedAccess(phone.id);
    case "start recovery":
      return desk.startRecovery(phone.id, await content());
    case "repair":
      return desk.repair(phone.id, await content(), proxy(progress));
  }
}
