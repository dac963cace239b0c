import { useLiveQuery } from "dexie-react-hooks";
import { useState } from "react";
import { cardFor, PRACTICE_CARDS, usualCard } from "../../core/phones/model-cards.ts";
import { database } from "../kept/database.ts";
import { useJob } from "../session/use-session.ts";
import { PhoneDrawing } from "../shared/PhoneDrawing.tsx";

/** The keys of a mode, drawn on the model that the ticket names, or on what most phones are like. */
export function KeysToHold({ mode }: { mode: "recovery" | "bootloader" | "download" }) {
  const { device } = useJob();
  const own = useLiveQuery(() => database.models.toArray()) ?? [];
  const [home, setHome] = useState(false);
  const known = cardFor(device, [...own, ...PRACTICE_CARDS]);
  const card = known ?? usualCard(home);
  const keys = card.modes[mode];
  if (!keys) return <p className="mt-1 text-[13.5px]">{`${card.model} has no ${mode} mode, says its model card.`}</p>;
  return (
    <div className="mt-2 flex items-center gap-4 rounded-box border border-line bg-base-200 p-3">
      <PhoneDrawing keysAt={card.keysAt} held={keys.hold} dark className="h-28 shrink-0" />
      <div>
        <p>
          Hold <strong>{keys.hold.join(" + ")}</strong> together until the mode shows
          {keys.accept && (
            <>
              , then press <strong>{keys.accept}</strong> to accept
            </>
          )}
          .
        </p>
        <p className="mt-1 text-[13.5px] text-second">{known ? `${known.maker} ${known.model}: ${known.notes}` : card.notes}</p>
        {mode === "download" && card.builds.length > 0 && (
          <p className="mt-1 text-[13.5px]">
            Good system images known for it: <span className="font-mono">{card.builds.join(", ")}</span>
          </p>
        )}
        {!known && (
          <label className="mt-1 flex items-center gap-2 text-[13.5px]">
            <input type="checkbox" checked={home} onChange={(event) => setHome(event.target.checked)} /> it has a home key
          </label>
        )}
      </div>
    </div>
  );
}
