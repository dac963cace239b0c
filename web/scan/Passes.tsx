import { sumOf } from "../kept/kept-scan.ts";
import type { ShownScan } from "../session/session-state.ts";
import { count } from "../shared/words.ts";

const PASSES = [
  { pass: "listing", name: "1 Lists", what: "what is still listed" },
  { pass: "sweep", name: "2 Content", what: "all that is free" },
  { pass: "archives", name: "3 Archives", what: "files packed in them" },
  { pass: "databases", name: "4 Databases", what: "rows, erased ones too" },
  { pass: "reconcile", name: "5 Putting together", what: "what is the same" },
] as const;
const ORDER: readonly string[] = [...PASSES.map(({ pass }) => pass), "done"];

/** What is said of a pass that is done. */
const DONE: Record<(typeof PASSES)[number]["pass"], (scan: ShownScan) => string> = {
  listing: () => "done",
  sweep: () => "done",
  archives: () => "done",
  databases: ({ rows }) =>
    rows.present + rows.erased === 0 ? "done, none found" : `${count(rows.present)} and ${count(rows.erased)} erased`,
  reconcile: ({ counts }) => `done, ${count(sumOf(counts, "erased") + sumOf(counts, "binned"))} lost in all`,
};

/** The passes of the scan, each with where it stands. */
export function Passes({ scan }: { scan: ShownScan }) {
  const now = scan.status === "done" ? ORDER.length - 1 : scan.status === "new" ? -1 : ORDER.indexOf(scan.progress.pass);
  const passes = scan.depth === "quick" ? PASSES.filter(({ pass }) => pass !== "sweep") : PASSES;
  return (
    <ol className="grid auto-cols-fr grid-flow-col gap-2" aria-label="Passes">
      {passes.map(({ pass, name, what }) => {
        const place = ORDER.indexOf(pass);
        const part = place < now ? 1 : place > now || scan.progress.total === 0 ? 0 : scan.progress.done / scan.progress.total;
        const state = place < now ? DONE[pass](scan) : place === now ? `${Math.floor(part * 100)} %` : "waits";
        return (
          <li
            key={pass}
            className={`panel relative overflow-hidden px-4 pt-2 pb-2.5 ${place === now && scan.status !== "done" ? "bg-glow" : ""}`}
          >
            <p className="font-bold">{name}</p>
            <p className="text-sm text-second">
              {what} · {state}
            </p>
            <span
              className={`absolute bottom-0 left-0 h-1 ${part === 1 ? "bg-primary" : "bg-accent"}`}
              style={{ width: `${part * 100}%` }}
              aria-hidden="true"
            />
          </li>
        );
      })}
    </ol>
  );
}
