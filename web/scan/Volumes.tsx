import { Lock, TriangleAlert } from "lucide-react";
import { useNavigate } from "react-router";
import { folderKey } from "../../core/finds/folder-table.ts";
import { volumeWords } from "../finds/folder-words.ts";
import type { ShownScan } from "../session/session-state.ts";
import { useJob, useSession } from "../session/use-session.ts";
import { bytes, hex } from "../shared/words.ts";

/** The volumes of the storage in the order they lie in: what each is, how full, in what state. A click shows its finds. */
export function Volumes({ medium, volumes }: { medium: number; volumes: ShownScan["volumes"] }) {
  const session = useSession();
  const navigate = useNavigate();
  // A phone that says that it encrypts nothing is believed: its volume could, and does not.
  const isTold = useJob().facts.encryption !== "none";
  if (volumes.length === 0) return null;
  return (
    <ul className="grid grid-cols-[repeat(auto-fill,minmax(19rem,1fr))] gap-2" aria-label="Volumes">
      {volumes.map((volume, index) => {
        const share = volume.length > 0 ? Math.min(1, volume.used / volume.length) : 0;
        const sealed = volume.filesystem === "encrypted" ? "encrypted as a whole, not searched" : "folders in it may be encrypted";
        const isSealed = volume.encryption && (isTold || volume.filesystem === "encrypted");
        const state = isSealed ? sealed : volume.condition;
        return (
          <li key={volume.start} className="panel px-3 py-2">
            <div className="flex items-baseline gap-2">
              <button
                type="button"
                className="min-w-0 truncate text-left font-bold underline decoration-line underline-offset-4"
                title="Show what was found in it"
                onClick={() => {
                  void session.ask({ folder: folderKey(medium, { volume: index, path: "" }) });
                  navigate("../finds");
                }}
              >
                {volumeWords(index, volumes)}
              </button>
              <span className="ml-auto shrink-0 font-mono text-[13px] text-second">from {hex(volume.start)}</span>
            </div>
            <p className="mt-1 flex items-center gap-2 text-[13px]">
              <span className="h-1.5 flex-1 bg-glow" aria-hidden="true">
                <span className="block h-full bg-band" style={{ width: `${share * 100}%` }} />
              </span>
              {bytes(volume.used)} in use of {bytes(volume.length)}
            </p>
            {state && (
              <p className="mt-1.5 flex gap-1.5 text-[13px]">
                {isSealed ? (
                  <Lock className="mt-0.5 size-4 shrink-0" aria-hidden="true" />
                ) : (
                  <TriangleAlert className="mt-0.5 size-4 shrink-0" aria-hidden="true" />
                )}
                {state}
              </p>
            )}
          </li>
        );
      })}
    </ul>
  );
}
