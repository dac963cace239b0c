import { proxy } from "comlink";
import { useState } from "react";
import { isReadable } from "../../core/phones/states.ts";
import { type CopyRecord, lacksOf } from "../kept/copy.ts";
import { database } from "../kept/database.ts";
import { phoneDesk } from "../phones/phones.ts";
import { useSession } from "../session/use-session.ts";
import { bytes, plural } from "../shared/words.ts";
import { noteWork } from "../shell/work-under-way.ts";
import type { CopyPlace, PhoneView } from "../worker/phones/protocol.ts";

/** Chromium's picker for a file that is to be written. */
interface SavePicker {
  showSaveFilePicker?(options: { suggestedName: string }): Promise<FileSystemFileHandle>;
}

/** A working copy: where it goes, how far it is, and that it goes on after a pulled cable. */
export function CopyPanel({ copy, phone, onDirect }: { copy: CopyRecord; phone: PhoneView | null; onDirect: () => void }) {
  const session = useSession();
  const [live, setLive] = useState<CopyRecord | null>(null);
  const [refusal, refuse] = useState<string | null>(null);
  const now = live?.job === copy.job && live.mark.done > copy.mark.done ? live : copy;
  const there = isReadable(phone?.state);
  const part = copy.size > 0 ? now.mark.done / copy.size : 0;
  const lost = now.mark.unreadable.reduce((sum, { length }) => sum + length, 0);

  async function begin(place: CopyPlace | null): Promise<void> {
    refuse(null);
    const name = `copy ${copy.job}`;
    const hear = (record: CopyRecord) => {
      noteWork(name, record.status === "running");
      setLive(record);
    };
    noteWork(name, true);
    const outcome = await phoneDesk().copy(copy.job, place, proxy(hear));
    if (outcome.ok) return;
    noteWork(name, false);
    refuse(outcome.because);
  }
  async function chooseFile(): Promise<void> {
    const { showSaveFilePicker } = window as SavePicker;
    const suggestedName = `${copy.name.replace(/[^\w -]+/g, "")}.${copy.part.kind === "shared" ? "tar" : "img"}`;
    const handle = await showSaveFilePicker?.call(window, { suggestedName }).catch(() => undefined);
    if (handle) await begin({ kind: "file", handle });
  }
  async function use(): Promise<void> {
    if (copy.place?.kind === "file") {
      const file = await copy.place.handle.getFile();
      const lacks = lacksOf(now);
      refuse(await session.giveStorage({ grant: { kind: "file", file, ...(lacks && { lacks }) }, handle: copy.place.handle }));
    } else refuse(await session.takePhonePart("copy", copy.name, copy.size));
  }

  return (
    <div className="flex flex-col gap-3">
      <p>
        <strong>{copy.name}</strong>{" "}
        <span className="text-[13.5px] text-second">
          {copy.part.kind === "shared" ? `${plural(copy.members.length, "file")}, ` : ""}
          {bytes(copy.size)}
        </span>
      </p>
      {copy.status === "found" ? (
        <>
          <div className="flex flex-wrap gap-2">
            <button type="button" className="button button-main" disabled={!there} onClick={() => void begin({ kind: "browser" })}>
              Make a working copy
            </button>
            {"showSaveFilePicker" in window && (
              <button type="button" className="button" disabled={!there} onClick={() => void chooseFile()}>
                Copy into a file…
              </button>
            )}
            <button type="button" className="button" disabled={!there} onClick={onDirect}>
              Read it directly
            </button>
            <button type="button" className="button" onClick={() => void database.copies.delete(copy.job)}>
              Take something else
            </button>
          </div>
          <p className="text-[13.5px] text-second">
            A copy is read once, hashed, and worked on as often as needed: the phone can rest. Reading directly needs it attached all the
            time.
          </p>
        </>
      ) : (
        <>
          <progress className="progress progress-primary h-3 w-full" value={part} max={1} aria-label="Copied" />
          <p role="status">
            {STATUS[copy.status]} {bytes(now.mark.done)} of {bytes(copy.size)}
            {lost > 0 && ` · ${bytes(lost)} could not be read: zeros stand there`}
          </p>
          {copy.because && (
            <p role="alert" className="rounded-field bg-warning px-3 py-2 text-warning-content">
              <strong>{copy.because}</strong> What was copied is kept.
            </p>
          )}
          {lost > 0 && copy.status === "done" && (
            <p className="text-[13.5px] text-second">
              What lies in those places is told as damaged everywhere: in Finds, at hand-over and in its summary.
            </p>
          )}
          {copy.sha256 && <p className="font-mono text-[13px] break-all">SHA-256 {copy.sha256}</p>}
          <div className="flex flex-wrap gap-2">
            {copy.status === "running" && live && (
              <button type="button" className="button" onClick={() => void phoneDesk().stopCopy(copy.job)}>
                Stop
              </button>
            )}
            {(copy.status === "failed" || copy.status === "stopped" || (copy.status === "running" && !live)) && (
              <>
                <button type="button" className="button button-main" disabled={!there} onClick={() => void begin(null)}>
                  Go on copying
                </button>
                {now.mark.done > 0 && (
                  <button type="button" className="button" onClick={() => void use()}>
                    Work on it as it is
                  </button>
                )}
                <button type="button" className="button" onClick={() => void database.copies.delete(copy.job)}>
                  Take something else
                </button>
              </>
            )}
            {copy.status === "done" && (
              <button type="button" className="button button-main" onClick={() => void use()}>
                Work on this copy
              </button>
            )}
          </div>
        </>
      )}
      {refusal && (
        <p role="alert" className="rounded-field bg-warning px-3 py-2 text-warning-content">
          {refusal}
        </p>
      )}
    </div>
  );
}

const STATUS: Readonly<Record<Exclude<CopyRecord["status"], "found">, string>> = {
  running: "Copying:",
  stopped: "Stopped:",
  failed: "Broken off:",
  done: "Copied and hashed:",
};
