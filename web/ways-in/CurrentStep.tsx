import { useEffect, useState } from "react";
import type { PhoneView } from "../../core/phones/phone-view.ts";
import { PATIENCE, USUAL_TROUBLE } from "../../core/phones/states.ts";
import type { Step } from "../../core/triage/sights.ts";
import { phoneDesk } from "../phones/phones.ts";
import { impatient, stateWords } from "../phones/state-words.ts";
import { useJob } from "../session/use-session.ts";
import { KeysToHold } from "./KeysToHold.tsx";
import { StepAction } from "./StepAction.tsx";

/** Nothing tells a computer whether the question still stands on the screen: a refused one is as silent as one that nobody answered. */
const WAITING =
  "The phone waits for a yes. Compare the key's fingerprint on its screen, then tap Allow. No question there? It was refused or is hidden: ask again.";
const DARK = "The phone asks on a screen that shows nothing. Bring the key of a computer that it knows, or a mouse and a picture adapter.";

/** The step that is waited for now: what the phone says, how long, what to do, and what usually is wrong. */
export function CurrentStep({ step, phone, held }: { step: Step; phone: PhoneView | null; held: string | null }) {
  const now = useNow();
  const waited = phone ? Math.floor((now - phone.since) / 1000) : 0;
  const asks = phone?.state === "waiting for the person to allow";
  const isDark = useJob().intake.symptoms.includes("screen black");
  const trouble = phone && impatient(phone, now) ? USUAL_TROUBLE[phone.state] : [];
  return (
    <div className="mt-2 rounded-box border border-accent bg-glow p-3 text-ink">
      {phone && (
        <div className="flex items-baseline justify-between gap-3">
          <p className="font-semibold">{asks ? (isDark ? DARK : WAITING) : `Now: ${stateWords(phone).toLowerCase()}.`}</p>
          {step.sight && <p className="font-mono text-lg font-bold whitespace-nowrap">{clock(waited)}</p>}
        </div>
      )}
      {asks && !isDark && <Fingerprint />}
      {phone?.problem && <p className="mt-1 text-[13.5px]">{phone.problem}</p>}
      {step.keys && <KeysToHold mode={step.keys} />}
      {held ? (
        <p role="alert" className="mt-2 font-semibold">
          {held}
        </p>
      ) : (
        step.does && <StepAction does={step.does} phone={phone} />
      )}
      {trouble.length > 0 && (
        <div className="mt-2">
          <p className="text-[13.5px] font-semibold">{`Longer than ${PATIENCE} seconds. What usually is wrong:`}</p>
          <ul className="list-disc pl-5 text-[13.5px]">
            {trouble.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
        </div>
      )}
    </div>
  );
}

/** This computer's own key, as the phone shows it. */
function Fingerprint() {
  const [fingerprint, setFingerprint] = useState("");
  useEffect(() => {
    void phoneDesk().fingerprint().then(setFingerprint);
  }, []);
  return <p className="mt-1 min-h-5 font-mono text-[13px] break-words">{fingerprint}</p>;
}

const clock = (seconds: number): string => `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;

function useNow(): number {
  const [now, setNow] = useState(Date.now);
  useEffect(() => {
    const ticking = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(ticking);
  }, []);
  return now;
}
