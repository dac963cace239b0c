import type { Way } from "../../core/triage/ways.ts";
import { NeedMark } from "./NeedMark.tsx";

const minutes = ([from, to]: Way["minutes"]): string => `${from}–${to} min`;

/** A way in the list: what it needs, reaches and changes. */
export function WayEntry({ way, chosen, onChoose }: { way: Way; chosen: boolean; onChoose: () => void }) {
  return (
    <li>
      <button
        type="button"
        aria-pressed={chosen}
        className={`w-full cursor-pointer rounded-box border bg-base-100 px-3.5 py-2.5 text-left ${chosen ? "border-2 border-ink" : "border-line"}`}
        onClick={onChoose}
      >
        <span className="flex items-baseline justify-between gap-3">
          <strong>{way.name}</strong>
          <span className="text-sm whitespace-nowrap text-second">
            {way.standing === "pointless" ? "no use here" : minutes(way.minutes)}
          </span>
        </span>
        {way.because ? (
          <span className="mt-0.5 block text-sm text-second">{way.because}</span>
        ) : (
          <span className="mt-1 flex flex-wrap gap-x-4 gap-y-0.5 text-sm">
            {way.needs.map((need) => (
              <NeedMark key={need.what} need={need} />
            ))}
          </span>
        )}
      </button>
    </li>
  );
}
