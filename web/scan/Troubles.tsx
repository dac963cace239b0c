import type { ShownScan } from "../session/session-state.ts";
import { hex, plural } from "../shared/words.ts";

/** Places that make no sense or cannot be read, in plain words. Folded: they are rarely what is looked for. */
export function Troubles({ troubles }: { troubles: ShownScan["troubles"] }) {
  if (troubles.length === 0) return null;
  return (
    <details className="panel px-4 py-2" aria-label="Troubles" open={troubles.length <= 2}>
      <summary className="cursor-pointer font-semibold">{plural(troubles.length, "thing")} on this medium to know of</summary>
      <ul className="mt-1 max-h-40 overflow-auto text-sm">
        {troubles.map(({ what, at }) => (
          <li key={`${at} ${what}`} className="py-0.5">
            {what} <span className="font-mono text-xs text-second">{hex(at)}</span>
          </li>
        ))}
      </ul>
    </details>
  );
}
