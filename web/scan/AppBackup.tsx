import { useState } from "react";
import { noted } from "../../core/phones/ledger.ts";
import type { PhoneView } from "../../core/phones/phone-view.ts";
import { phoneDesk } from "../phones/phones.ts";
import { useJob, useSession } from "../session/use-session.ts";
import { bytes } from "../shared/words.ts";

type Stage =
  | { readonly kind: "idle" | "asking" }
  | { readonly kind: "refused"; readonly because: string }
  | { readonly kind: "here"; readonly bytes: number };

/** Apps' own files, as far as each app lets the phone's backup service give them. The phone asks its owner. */
export function AppBackup({ phone, onTaken }: { phone: PhoneView; onTaken: () => void }) {
  const session = useSession();
  const { number, ledger } = useJob();
  const [stage, setStage] = useState<Stage>({ kind: "idle" });
  async function ask(): Promise<void> {
    setStage({ kind: "asking" });
    void session.changeJob({ ledger: noted(ledger, { at: Date.now(), phone: phone.serial, change: "backup asked for", detail: "" }) });
    const outcome = await phoneDesk().backUpApps(phone.id, `app-backup-${number}-${Date.now()}.ab`);
    if (!outcome.ok) return setStage({ kind: "refused", because: outcome.because });
    // What came is a medium of this ticket at once.
    const because = await session.addStorage({ grant: { kind: "file", file: outcome.file }, handle: outcome.handle });
    if (because !== null) return setStage({ kind: "refused", because: `The backup came, and cannot be opened: ${because}` });
    setStage({ kind: "here", bytes: outcome.file.size });
    onTaken();
  }
  return (
    <div className="flex flex-wrap items-baseline gap-3">
      <button type="button" className="button" disabled={stage.kind === "asking"} onClick={() => void ask()}>
        Ask for an app backup
      </button>
      <span className="min-w-0 flex-1 text-[13.5px] text-second" role="status">
        {stage.kind === "asking"
          ? "The phone shows a full-screen question now: tap “Back up my data”, and set no password. Nothing comes before that."
          : stage.kind === "here"
            ? `${bytes(stage.bytes)} came, and is a medium of this ticket now.`
            : "apps' own files, where an app allows it; the phone asks its owner"}
      </span>
      {stage.kind === "refused" && (
        <p role="alert" className="w-full font-semibold">
          {stage.because}
        </p>
      )}
    </div>
  );
}
