import { TriangleAlert } from "lucide-react";
import { useRef } from "react";
import { Link } from "react-router";
import { inUse, type MediumState } from "../session/session-state.ts";
import { together } from "../session/together.ts";
import { useMedia, useSession } from "../session/use-session.ts";
import { FileField } from "../shared/FileField.tsx";
import { offeredFolder } from "../shared/pick-storage.ts";
import { bytes } from "../shared/words.ts";

/** Says what is needed when storage of the ticket is not open, and takes it: one notice for each medium that lacks something. */
export function StorageNotice() {
  return inUse(useMedia()).map((state) => <Notice key={state.medium.id} state={state} />);
}

function Notice({ state: { medium, storage, problem } }: { state: MediumState }) {
  const session = useSession();
  const input = useRef<HTMLInputElement>(null);
  const { id, source } = medium;
  if (typeof storage === "string" || !source) return null;
  const isFolder = source.kind === "folder";
  // What came as several files is given as several again.
  const giveAgain = (files: readonly File[]) => {
    const one = together(files.map((file) => ({ grant: { kind: "file", file } })));
    if (typeof one !== "string") void session.giveAgain(id, one.grant);
  };
  return (
    <section
      className="flex items-center gap-3 border-b border-line bg-warning px-5 py-2.5 text-warning-content"
      aria-label="Storage"
      role="status"
    >
      <TriangleAlert className="size-5 shrink-0" aria-hidden="true" />
      <p className="min-w-0 flex-1">
        <strong>{problem ?? "The storage of this ticket is closed."}</strong>{" "}
        {storage.kind === "needs phone"
          ? `It is read directly off the phone${storage.serial ? ` ${storage.serial}` : ""}: attach it again, as it was. It opens by itself then.`
          : storage.kind === "needs click"
            ? `Allow the browser to read ${source.name} again. Nothing that was found is lost.`
            : `Choose ${source.name} (${bytes(source.size)}) again to go on. Nothing that was found is lost.`}
      </p>
      {storage.kind === "needs phone" ? (
        <Link to="ways-in" className="button button-lamp">
          To the ways in
        </Link>
      ) : storage.kind === "needs click" ? (
        <button type="button" className="button button-lamp" onClick={() => void session.reopen(id)}>
          Open it again
        </button>
      ) : (
        <>
          {isFolder ? (
            <FileField
              field={input}
              label="The same folder again"
              onFolder={(files) => void session.giveAgain(id, offeredFolder(files).grant)}
            />
          ) : (
            <FileField field={input} label="The same file again" onFiles={(files) => giveAgain(files)} />
          )}
          <button type="button" className="button button-lamp" onClick={() => input.current?.click()}>
            Choose the {isFolder ? "folder" : "file"}…
          </button>
        </>
      )}
    </section>
  );
}
