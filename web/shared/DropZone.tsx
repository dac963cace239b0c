import { Download } from "lucide-react";
import { useRef, useState } from "react";
import { droppedItems, type Offered } from "../session/offered.ts";
import { FileField } from "./FileField.tsx";

/** Chromium's picker gives a handle that can be opened again after a reload. */
interface OpenPicker {
  showOpenFilePicker?(): Promise<FileSystemFileHandle[]>;
}

/** One big place to drop a disk image, or to choose one. */
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

  async function choose() {
    const { showOpenFilePicker } = window as OpenPicker;
    if (!showOpenFilePicker) {
      input.current?.click();
      return;
    }
    // Closing the picker without a choice is no error.
    const [handle] = await showOpenFilePicker.call(window).catch(() => []);
    if (handle) onOffer({ grant: { kind: "file", file: await handle.getFile() }, handle });
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
      <p className="text-second">the disk image of a memory card</p>
      <FileField field={input} label="Disk image" onFile={(file) => onOffer({ grant: { kind: "file", file } })} />
      <button type="button" className="button mt-1" disabled={busy !== null} onClick={() => void choose()}>
        Choose a file…
      </button>
      {busy && (
        <p role="status" className="mt-1">
          Looking at {busy}…
        </p>
      )}
      {refusal && (
        <p role="alert" className="mt-1 rounded-field bg-warning px-3 py-2 text-warning-content">
          {refusal}
        </p>
      )}
    </section>
  );
}
