import { Archive } from "lucide-react";
import { bytes } from "../shared/words.ts";
import type { AttachedMedium } from "./media.ts";

/** A memory card or a backup that the server holds: drawn, named, and startable. */
export function MediumCard({ medium, busy, onStart }: { medium: AttachedMedium; busy: boolean; onStart: () => void }) {
  const isBackup = medium.name.endsWith(".ab");
  return (
    <article className="panel relative flex w-[27.5rem] gap-3 self-start p-3 shadow-lift">
      {isBackup ? <Archive className="size-13 shrink-0" strokeWidth={1.5} aria-hidden="true" /> : <DrawnCard />}
      <div className="min-w-0 flex-1">
        <div className="flex items-baseline justify-between gap-3">
          <h2 className="text-lg font-bold">{isBackup ? "Backup on this computer" : "Card in the practice reader"}</h2>
          <span className="text-sm text-second">read-only</span>
        </div>
        <div className="flex items-center justify-between gap-3">
          <p className="truncate font-semibold">
            {medium.name} · {bytes(medium.size)}
          </p>
          <button type="button" className="button button-main h-8 shrink-0" disabled={busy} onClick={onStart}>
            Start a job with it
          </button>
        </div>
        <p className="mt-1 text-[13.5px] leading-5 text-second">{medium.note}</p>
      </div>
    </article>
  );
}

const DrawnCard = () => (
  <svg viewBox="0 0 52 72" className="h-18 shrink-0" aria-hidden="true">
    <path d="M3 1h34l14 14v54a2 2 0 0 1-2 2H3a2 2 0 0 1-2-2V3a2 2 0 0 1 2-2z" fill="var(--color-neutral)" />
    {[8, 17, 26, 35].map((x) => (
      <rect key={x} x={x} y="7" width="6" height="13" fill="var(--color-accent)" />
    ))}
  </svg>
);
