import { useState } from "react";
import { isReadable } from "../../core/phones/states.ts";
import type { KeptPart } from "../kept/part.ts";
import { PhoneLine } from "../phones/PhoneLine.tsx";
import { usePhone } from "../phones/phones.ts";
import { isCopied } from "../session/session-state.ts";
import { useJob, useMedium, useSession } from "../session/use-session.ts";
import { whyHeld } from "../session/why-held.ts";
import { Warning } from "../shared/Warning.tsx";
import { bytes, plural } from "../shared/words.ts";
import type { CopyPlace } from "../worker/phones/protocol.ts";
import { CopyProgress } from "./CopyProgress.tsx";
import { useCopyNow } from "./use-part.ts";

/** A part of a phone that is not read yet: copied first, or read directly. The copy itself lives in the worker that holds the phone. */
export function CopyPanel({ part }: { part: KeptPart }) {
  const session = useSession();
  const { intake, facts } = useJob();
  const phone = usePhone(part.serial);
  const state = useMedium(part.medium);
  const now = useCopyNow(part);
  const [refusal, refuse] = useState<string | null>(null);
  const held = whyHeld(intake, facts);
  const there = isReadable(phone?.state) && held === null;

  async function begin(place: CopyPlace | null, steal = false): Promise<void> {
    refuse(null);
    refuse((await session.medium(part.medium)?.copy(place, steal)) ?? null);
  }
  const read = async (how: "copy" | "phone") => refuse(await session.readPart(part.medium, how));
  const drop = () => void session.removeMedium(part.medium);

  return (
    <section className="panel flex flex-col gap-3 p-4" aria-label="From the phone">
      <PhoneLine phone={phone} serial={part.serial} />
      {held && (
        <Warning>
          <strong>{held}</strong>
        </Warning>
      )}
      <p>
        <strong>{part.name}</strong>{" "}
        <span className="text-[13.5px] text-second">
          {part.part.kind === "shared" ? `${plural(part.members.length, "file")}, ` : ""}
          {bytes(part.size)}
        </span>
      </p>
      {now.status === "new" ? (
        <CopyChoice part={part} there={there} onBegin={(place) => void begin(place)} onDirect={() => void read("phone")} onDrop={drop} />
      ) : (
        <CopyProgress
          part={part}
          now={now}
          isElsewhere={state?.worked === "elsewhere" && isCopied(state)}
          there={there}
          onGoOn={(steal) => void begin(null, steal)}
          onUse={() => void read("copy")}
          onDrop={drop}
        />
      )}
      {refusal && <Warning>{refusal}</Warning>}
    </section>
  );
}

/** Chromium's picker for a file that is to be written. */
interface SavePicker {
  showSaveFilePicker?(options: { suggestedName: string }): Promise<FileSystemFileHandle>;
}

/** Copy it, and where to; or read it directly. */
function CopyChoice({
  part,
  there,
  onBegin,
  onDirect,
  onDrop,
}: {
  part: KeptPart;
  there: boolean;
  onBegin: (place: CopyPlace) => void;
  onDirect: () => void;
  onDrop: () => void;
}) {
  async function chooseFile(): Promise<void> {
    const { showSaveFilePicker } = window as SavePicker;
    const suggestedName = `${part.name.replace(/[^\w -]+/g, "")}.${part.part.kind === "shared" ? "tar" : "img"}`;
    const handle = await showSaveFilePicker?.call(window, { suggestedName }).catch(() => undefined);
    if (handle) onBegin({ kind: "file", handle });
  }
  return (
    <>
      <div className="flex flex-wrap gap-2">
        <button type="button" className="button button-main" disabled={!there} onClick={() => onBegin({ kind: "browser" })}>
          Copy it, then scan
        </button>
        {"showSaveFilePicker" in window && (
          <button type="button" className="button" disabled={!there} onClick={() => void chooseFile()}>
            Copy into a file, then scan…
          </button>
        )}
        <button type="button" className="button" disabled={!there} onClick={onDirect}>
          Read it directly
        </button>
        <button type="button" className="button" onClick={onDrop}>
          Take something else
        </button>
      </div>
      <p className="text-[13.5px] text-second">
        A copy is read once, hashed, and worked on as often as needed: the phone can rest, and the scan begins by itself. Reading directly
        needs the phone attached all the time.
      </p>
    </>
  );
}
