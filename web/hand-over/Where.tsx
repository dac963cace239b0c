import { useState } from "react";
import { partsOfKey } from "../../core/finds/find-key.ts";
import type { Item } from "../../core/handover/item.ts";
import type { Forms } from "../../core/handover/people/plan.ts";
import type { Folders } from "../../core/handover/plan.ts";
import { useMedia, useSession, useSessionState } from "../session/use-session.ts";
import { Warning } from "../shared/Warning.tsx";
import type { Target } from "../worker/reading/protocol.ts";
import { FormChoices } from "./FormChoices.tsx";
import { treeLines } from "./tree-lines.ts";

/** Chromium's picker (W3C File System Access). */
interface FolderPicker {
  showDirectoryPicker?(options: { mode: "readwrite" }): Promise<FileSystemDirectoryHandle>;
}

const WAYS = [
  { way: "folder", name: "A folder on this computer", what: "a new sub-folder is made in it" },
  { way: "zip", name: "One archive", what: "a ZIP, as a download" },
] as const;

/** Media that something is chosen from and that are not open. */
function useClosed(): { names: readonly string[]; all: boolean } {
  const tray = useSessionState((state) => state.tray);
  const media = useMedia();
  const used = new Set([...tray].map((key) => partsOfKey(key).medium));
  const chosen = media.filter(({ medium }) => used.has(medium.id));
  const closed = chosen.filter(({ storage }) => storage !== "open");
  return { names: closed.map(({ medium }) => medium.name), all: closed.length === chosen.length };
}

interface WhereProps {
  readonly files: readonly Item<unknown>[];
  /** Name of the new folder, and what has a sub-folder in it. */
  readonly folder: string;
  readonly folders: Folders;
  readonly onFolders: (folders: Folders) => void;
  /** In what forms people's data goes, and which kinds of it there are. */
  readonly forms: Forms;
  readonly onForms: (forms: Forms) => void;
  readonly kinds: ReadonlySet<keyof Forms>;
}

/** Where it goes, and what will stand there. */
export function Where({ files, folder, folders, onFolders, forms, onForms, kinds }: WhereProps) {
  const session = useSession();
  const busy = useSessionState((state) => state.handOver.busy);
  const closed = useClosed();
  const { showDirectoryPicker } = window as FolderPicker;
  const [way, setWay] = useState<Target["kind"]>(showDirectoryPicker ? "folder" : "zip");
  const [refusal, setRefusal] = useState<string | null>(null);

  async function give() {
    setRefusal(null);
    if (way === "zip" || !showDirectoryPicker) return session.handOver({ kind: "zip", folder, folders, forms });
    let handle: FileSystemDirectoryHandle;
    try {
      handle = await showDirectoryPicker.call(window, { mode: "readwrite" });
    } catch (cause) {
      // Closing the picker is no error; anything else is worth a word.
      if (!(cause instanceof DOMException && cause.name === "AbortError"))
        setRefusal("The browser does not let Jubar write there. Choose another folder, or one archive.");
      return;
    }
    return session.handOver({ kind: "folder", handle, folder, folders, forms });
  }

  return (
    <section className="panel flex min-h-0 flex-col overflow-y-auto p-4" aria-label="Where and how">
      <h2 className="text-lg font-bold">Where and how</h2>
      <div className="mt-2 grid grid-cols-2 gap-2" role="radiogroup" aria-label="Destination">
        {WAYS.map(({ way: one, name, what }) => {
          const missing = one === "folder" && !showDirectoryPicker;
          return (
            <label
              key={one}
              className={`flex cursor-pointer gap-3 rounded-box border p-3 ${way === one ? "border-2 border-ink" : "border-line"} ${missing ? "cursor-not-allowed" : ""}`}
            >
              <input
                type="radio"
                name="way"
                className="radio radio-sm mt-0.5 border-second"
                checked={way === one}
                disabled={missing || busy}
                onChange={() => setWay(one)}
              />
              <span>
                <strong className="block">{name}</strong>
                <span className="text-sm text-second">{missing ? "this browser cannot write into folders" : what}</span>
              </span>
            </label>
          );
        })}
      </div>
      <dl className="mt-3 grid grid-cols-[5.5rem_1fr] gap-y-1 text-sm">
        <dt className="text-second">Photos</dt>
        <dd>as they were, byte for byte</dd>
        <dt className="text-second">Names</dt>
        <dd>as on the card; same names are numbered, unsafe ones cleaned</dd>
        <dt className="text-second">Sub-folders</dt>
        <dd>
          <div className="flex gap-4" role="radiogroup" aria-label="Sub-folders">
            {(["kind", "format"] as const).map((one) => (
              <label key={one} className="flex cursor-pointer items-center gap-1.5">
                <input
                  type="radio"
                  name="folders"
                  className="radio radio-xs border-second"
                  checked={folders === one}
                  disabled={busy}
                  onChange={() => onFolders(one)}
                />
                for each {one}
              </label>
            ))}
          </div>
        </dd>
        <FormChoices forms={forms} kinds={kinds} busy={busy} onForms={onForms} />
        <dt className="text-second">Check</dt>
        <dd>every file is read back and its SHA-256 compared</dd>
      </dl>
      <pre className="mt-3 min-h-24 flex-1 overflow-auto rounded-box bg-base-200 p-3 font-mono text-[13px] leading-5">
        {treeLines(
          folder,
          files.map(({ path }) => path),
          way === "folder",
        ).join("\n")}
      </pre>
      {refusal && <Warning className="mt-3">{refusal}</Warning>}
      <button
        type="button"
        className="button button-main mt-3 h-11"
        disabled={busy || (closed.all && kinds.size === 0) || files.length === 0}
        onClick={() => void give()}
      >
        {busy ? "Writing…" : way === "folder" ? "Choose the folder and write" : "Make the archive"}
      </button>
      {closed.names.length > 0 && (
        <p className="mt-2 text-sm text-second">
          {closed.all
            ? "The storage must be open: the contents are read from it now."
            : `${closed.names.join(" and ")} must be open too: what is chosen from there cannot be written now.`}
        </p>
      )}
    </section>
  );
}
