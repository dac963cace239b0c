import { Download } from "lucide-react";
import { type RefObject, useRef, useState } from "react";
import { useDropzone } from "react-dropzone";
import { droppedFiles, type Offered, offeredBy } from "../session/offered.ts";
import { together } from "../session/together.ts";
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
  const input = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);

  const [several, refuse] = useState<string | null>(null);
  function offer(offered: readonly Offered[]): void {
    if (offered.length === 0) return;
    const one = together(offered);
    refuse(typeof one === "string" ? one : null);
    if (typeof one !== "string") onOffer(one);
  }

  const { getRootProps, isDragActive } = useDropzone({
    noClick: true,
    noKeyboard: true,
    getFilesFromEvent: droppedFiles,
    onDrop: (files) => offer(files.flatMap((file) => offeredBy(file) ?? [])),
  });

  async function choose(pick: typeof pickFile | typeof pickFolder, field: RefObject<HTMLInputElement | null>) {
    const picked = await pick();
    if (picked === "no picker") field.current?.click();
    else if (picked) offer(Array.isArray(picked) ? picked : [picked]);
  }

  return (
    <section
      {...getRootProps({
        "aria-label": what,
        role: "region",
        tabIndex: -1,
        className: `flex min-h-48 flex-col items-center justify-center gap-2 rounded-2xl border-2 border-dashed p-6 text-center ${isDragActive ? "border-accent bg-glow" : "border-second bg-base-200"}`,
      })}
    >
      <Download className="size-10" strokeWidth={1.5} aria-hidden="true" />
      <h2 className="text-lg font-bold">{what}</h2>
      <p className="text-second">a disk image, a card's or phone's folder, a database, a backup or an export</p>
      <FileField field={input} label="Disk image" onFiles={(files) => offer(files.map((file) => ({ grant: { kind: "file", file } })))} />
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
      {(several ?? refusal) && <Warning className="mt-1">{several ?? refusal}</Warning>}
    </section>
  );
}
