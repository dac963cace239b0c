import { Download } from "lucide-react";
import { type RefObject, useRef, useState } from "react";
import { droppedItems, type Offered } from "../session/offered.ts";
import { FileField } from "./FileField.tsx";
import { offeredFolder, pickFile, pickFolder } from "./pick-storage.ts";
import { Warning } from "./Warning.tsx";

/** One big place to drop a disk image or a folder, or to choose one. */
export function DropZone({
  busy,
  refusal,
  onOffer,
  what = "Drop storage here",
}: {
  busy: string | null;
  refusal: string | null;
  onOffer: (offered: Offered | null) => void;
  what?: string;
}) {
  const [over, setOver] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);

  async function choose(pick: typeof pickFile, field: RefObject<HTMLInputElement | null>) {
    const picked = await pick();
    if (picked === "no picker") field.current?.click();
    else if (picked) onOffer(picked);
  }

  return (
    <section
      aria-label={what}
      className={`flex min-h-48 flex-col items-center justify-center gap-2 rounded-2xl border-2 border-dashed p-6 text-center ${over ? "border-accent bg-glow" : "border-second bg-base-200"}`}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        // Everything must be taken from the event before the first pause.
        const [first] = droppedItems(event.dataTransfer);
        if (first) void first.then(onOffer);
      }}
    >
      <Download className="size-10" strokeWidth={1.5} aria-hidden="true" />
      <h2 className="text-lg font-bold">{what}</h2>
      <p className="text-second">a disk image, a card's or phone's folder, a database, a backup or an export</p>
      <FileField field={input} label="Disk image" onFile={(file) => onOffer({ grant: { kind: "file", file } })} />
      <FileField field={folder} label="Folder" onFolder={(files) => onOffer(offeredFolder(files))} />
      <p className="mt-1 flex flex-wrap justify-center gap-2">
        <button type="button" className="button" disabled={busy !== null} onClick={() => void choose(pickFile, input)}>
          Choose a file…
        </button>
        <button type="button" className="button" disabled={busy !== null} onClick={() => void choose(pickFolder, folder)}>
          Choose a folder…
        </button>
      </p>
      {busy && (
        <p role="status" className="mt-1">
          Looking at {busy}…
        </p>
      )}
      {refusal && <Warning className="mt-1">{refusal}</Warning>}
    </section>
  );
}
