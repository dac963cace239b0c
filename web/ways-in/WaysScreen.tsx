import { useState } from "react";
import { Link } from "react-router";
import { warnings } from "../../core/triage/warnings.ts";
import { type Way, waysIn } from "../../core/triage/ways.ts";
import { usePanel } from "../practice/practice.ts";
import { scanOf } from "../session/session-state.ts";
import { useJob, useMedia } from "../session/use-session.ts";
import { whyHeld } from "../session/why-held.ts";
import { EncryptedNotice } from "../shared/EncryptedNotice.tsx";
import { ChosenWay } from "./ChosenWay.tsx";
import { KnownFacts } from "./KnownFacts.tsx";
import { TicketPhone } from "./TicketPhone.tsx";
import { WayEntry } from "./WayEntry.tsx";

/** Which way leads to the storage, what does it need, and what does it change? */
export function WaysScreen() {
  const { intake, facts } = useJob();
  const volumes = useMedia().flatMap((state) => scanOf(state).volumes);
  const ways = waysIn(intake, facts);
  const [chosenId, choose] = useState<string | null>(null);
  const chosen = ways.find(({ id }) => id === chosenId) ?? ways[0];
  const holding = warnings(intake, facts).filter(({ holds }) => holds);
  const kitOpen = usePanel(({ open }) => open);
  const held = whyHeld(intake, facts);
  const shut = ways.filter(({ standing }) => standing === "closed" || standing === "pointless");
  const others = ways.filter((way) => !shut.includes(way));
  const count = (standing: Way["standing"]) => ways.filter((way) => way.standing === standing).length;
  const entry = (way: Way) => <WayEntry key={way.id} way={way} chosen={way.id === chosen.id} onChoose={() => choose(way.id)} />;
  return (
    <main className="flex min-h-0 flex-1 flex-col gap-3 p-4">
      {holding.length > 0 && (
        <section className="rounded-box bg-warning px-4 py-2.5 text-warning-content" aria-label="Before anything else">
          {holding.map(({ what, why }) => (
            <p key={what}>
              <strong>{what}</strong> {why}
            </p>
          ))}
        </section>
      )}
      <EncryptedNotice volumes={volumes} />
      <TicketPhone />
      <div className={`grid min-h-0 flex-1 gap-3.5 ${kitOpen ? "grid-cols-[21rem_1fr]" : "grid-cols-[25rem_1fr_19rem]"}`}>
        <section className="flex min-h-0 flex-col" aria-label="Ways in">
          <div className="mb-2 flex items-baseline justify-between">
            <h1 className="font-bold">Ways in, by what is wanted</h1>
            <span className="text-sm text-second">
              {count("open")} open, {count("unclear")} unclear, {shut.length} closed
            </span>
          </div>
          {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls */}
          <div className="min-h-0 flex-1 overflow-y-auto pr-1" tabIndex={0} role="group" aria-label="All ways">
            <ul className="flex flex-col gap-2">{others.map(entry)}</ul>
            {others.length === 0 && (
              <p className="rounded-box border border-line bg-base-100 p-3">
                No way stands open with these answers.{" "}
                <Link to="../intake" className="underline">
                  Look at the intake again
                </Link>
                : a card or a backup would change it.
              </p>
            )}
            {shut.length > 0 && (
              <details className="mt-3" open={others.length === 0}>
                <summary className="cursor-pointer font-semibold">{shut.length} closed, and why</summary>
                <ul className="mt-2 flex flex-col gap-2">{shut.map(entry)}</ul>
              </details>
            )}
            {kitOpen && (
              <div className="mt-3">
                <KnownFacts />
              </div>
            )}
          </div>
        </section>
        <ChosenWay way={chosen} held={held} />
        {!kitOpen && <KnownFacts />}
      </div>
    </main>
  );
}
