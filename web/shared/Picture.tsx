import { FileArchive, FileAudio, FileQuestion, FileText, FileVideo, ImageOff, Package, Play, Table2 } from "lucide-react";
import type { Find } from "../../core/finds/find.ts";
import type { Found } from "../worker/finds/protocol.ts";
import { clock } from "./clock.ts";
import { LostPart } from "./Marks.tsx";
import { usePreview } from "./use-preview.ts";
import { nameOf } from "./words.ts";

const ICONS: Record<Find["kind"], typeof FileText> = {
  photo: ImageOff,
  video: FileVideo,
  audio: FileAudio,
  document: FileText,
  archive: FileArchive,
  database: Table2,
  app: Package,
  other: FileQuestion,
};

/** Pixels of a side below which there is room for a few words only. */
const SMALL = 480;

/** A find's picture, its lost part hatched; an icon of its kind where there is none to show. */
export function Picture({ find, side, fit }: { find: Found; side: number; fit: "cover" | "contain" }) {
  const preview = usePreview(find, side);
  if (preview === undefined) return <div className="size-full animate-pulse bg-base-300" />;
  if (preview === null || "word" in preview) {
    const Icon = ICONS[find.kind];
    return (
      <div
        className={`flex size-full flex-col items-center bg-base-300 p-2 text-second ${side < SMALL ? "gap-0.5 pb-7 justify-center" : "justify-center gap-1.5"}`}
      >
        <Icon className={side < SMALL ? "size-6 shrink-0" : "size-8"} strokeWidth={1.5} aria-hidden="true" />
        <span className="text-xs font-semibold uppercase">{find.format}</span>
        {find.name && <span className="line-clamp-1 max-w-full text-center text-xs wrap-anywhere">{find.name}</span>}
        {preview && <span className="text-center text-xs">{side < SMALL ? preview.word.replace(/:.*/, "") : preview.word}</span>}
      </div>
    );
  }
  if ("lines" in preview)
    return (
      <div className="size-full overflow-hidden bg-base-100 p-2.5">
        <p className="text-left font-mono text-[11px] leading-[1.45] whitespace-pre-wrap wrap-anywhere">{preview.lines.join("\n")}</p>
      </div>
    );
  const isPlayed = find.kind === "video";
  return (
    <div className="relative size-full overflow-hidden bg-base-300">
      <img
        src={preview.address}
        alt={nameOf(find)}
        className={`size-full ${fit === "cover" ? "object-cover" : "object-contain"}`}
        draggable={false}
      />
      {isPlayed && (
        <span className="absolute top-1.5 left-1.5 flex h-6 min-w-6 items-center justify-center gap-1 rounded-full bg-base-100 px-1.5 text-xs font-semibold text-ink">
          <Play className="size-3" fill="currentColor" aria-hidden="true" />
          {find.seconds !== null && clock(find.seconds)}
        </span>
      )}
      <LostPart find={find} least={0.06} />
    </div>
  );
}
