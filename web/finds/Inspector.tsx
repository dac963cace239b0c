import { Table2 } from "lucide-react";
import { Link } from "react-router";
import { onMedium, totalLength } from "../../core/bytes/extents.ts";
import { timeOf } from "../../core/finds/find.ts";
import { hasRecords } from "../../core/scan/database-finds.ts";
import { useFinds } from "../session/use-finds.ts";
import { useMedia, useSession, useSessionState } from "../session/use-session.ts";
import { useWantsOf } from "../session/use-wants-of.ts";
import { StateAndCondition } from "../shared/Marks.tsx";
import { Picture } from "../shared/Picture.tsx";
import { bytes, count, duration, hex, moment, nameOf, plural } from "../shared/words.ts";
import { type Found, isOfTicket } from "../worker/finds/protocol.ts";

/** What is known of one find, and why. `onOpen`: opens it large; without it it is so already. */
export function Inspector({ find, onOpen }: { find: Found | null; onOpen?: () => void }) {
  const session = useSession();
  const isWritten = find !== null && !isOfTicket(find);
  const wants = useWantsOf(find && !isWritten ? find.key : null);
  const chosen = useSessionState((state) => find !== null && state.tray.has(find.key));
  return (
    <aside className="panel mb-3 flex w-76 shrink-0 flex-col overflow-hidden" aria-label="Inspector">
      {find ? (
        // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls
        <div className="min-h-0 flex-1 overflow-y-auto p-3.5" tabIndex={0} role="group" aria-label={nameOf(find)}>
          {onOpen && (
            <button
              type="button"
              className="mb-2.5 block h-36 w-full cursor-zoom-in overflow-hidden rounded-field"
              onClick={onOpen}
              aria-label="Open it large"
            >
              <Picture find={find} side={640} fit="cover" />
            </button>
          )}
          <div className="flex items-start justify-between gap-2">
            <h2 className="min-w-0 font-bold wrap-anywhere">{nameOf(find)}</h2>
            {onOpen && !isWritten && (
              <button
                type="button"
                className={`button h-8 ${chosen ? "button-lamp" : ""}`}
                onClick={() => void session.choose([find.key], !chosen)}
                disabled={find.extents.length === 0}
              >
                {chosen ? "In tray ✓" : "Choose"}
              </button>
            )}
          </div>
          <p className="mt-1 flex flex-wrap items-center gap-x-4 gap-y-1">
            <StateAndCondition find={find} />
          </p>
          {hasRecords(find) && !isWritten && (
            <Link to={`../tables/${find.key}`} className="button button-main mt-2 w-full">
              <Table2 className="size-4" aria-hidden="true" /> Open its {find.kind === "database" ? "tables" : "entries"}
            </Link>
          )}
          <p className="mt-1 text-sm text-second">{find.because}</p>
          <dl className="mt-2.5 grid grid-cols-[4.5rem_1fr] gap-x-3 gap-y-1 text-sm [&_dd]:wrap-anywhere [&_dt]:text-second">
            {[...wants.map((words): [string, string] => ["answers", words]), ...factsOf(find)].map(([name, value]) => (
              <div key={`${name} ${value}`} className="contents">
                <dt>{name}</dt>
                <dd>{value}</dd>
              </div>
            ))}
          </dl>
          <Places find={find} />
          {find.evidence.length > 0 && (
            <h3 className="mt-3 border-t border-dashed border-line pt-2.5 text-sm font-bold">Why we think so</h3>
          )}
          <ul className="mt-1 list-disc pl-4 text-[13px] marker:text-primary">
            {find.evidence.map(({ what, at, pass }) => (
              <li key={`${pass} ${at} ${what}`} className="mt-0.5">
                {what} <span className="font-mono text-xs whitespace-nowrap text-second">{hex(at)}</span>
              </li>
            ))}
          </ul>
        </div>
      ) : (
        <p className="p-4 text-second">Click a find, or move with the arrow keys, and what is known of it stands here.</p>
      )}
    </aside>
  );
}

/** Other places that are listed: there may be thousands. */
const MOST_PLACES = 20;

/** The same bytes, found in other places of this ticket. */
function Places({ find }: { find: Found }) {
  const session = useSession();
  const media = useMedia();
  const others = useFinds(find.places.slice(0, MOST_PLACES));
  if (find.places.length === 0) return null;
  const nameOfMedium = (id: number) => media.find(({ medium }) => medium.id === id)?.medium.name ?? "another medium";
  return (
    <>
      <h3 className="mt-3 border-t border-dashed border-line pt-2.5 text-sm font-bold">
        The same in {plural(find.places.length + 1, "place")}
      </h3>
      <ul className="mt-1 flex flex-col gap-1 text-[13px]" aria-label="The same elsewhere">
        {others.map((other) => (
          <li key={other.key}>
            <button type="button" className="text-left underline decoration-line underline-offset-2" onClick={() => session.select(other)}>
              {nameOfMedium(other.medium)}: {other.path ?? nameOf(other)}, {other.state}
            </button>
          </li>
        ))}
        {find.places.length > MOST_PLACES && <li className="text-second">and {count(find.places.length - MOST_PLACES)} more</li>}
      </ul>
    </>
  );
}

/** The facts of a find in the order they are asked for; what is not known is left out, but for the day. */
function factsOf(find: Found): [string, string][] {
  const time = timeOf(find);
  const pieces = onMedium(find.extents);
  const gaps = totalLength(find.extents) - totalLength(pieces);
  const facts: [string, string | null][] = [
    [find.taken !== null ? "taken" : "changed", time === null ? "day not known" : moment(time)],
    [
      "last day",
      find.lastDay === null
        ? null
        : `${moment(find.lastDay)}, ${find.lastDay < Date.now() ? "which is past: the bin may drop it any time" : "then the bin drops it"}`,
    ],
    ["size", `${bytes(find.size)}${find.width && find.height ? ` · ${find.width} × ${find.height}` : ""}`],
    ["length", find.seconds === null ? null : duration(find.seconds)],
    ["shown", find.shown !== null && find.shown < 1 ? `the upper ${Math.round(find.shown * 100)} %` : null],
    ["camera", find.camera],
    ["place", find.place && `${find.place.latitude.toFixed(4)}, ${find.place.longitude.toFixed(4)}`],
    ["folder", find.path ? find.path.slice(0, find.path.lastIndexOf("/")) || "/" : "not known"],
    [
      "lies at",
      !isOfTicket(find)
        ? null
        : pieces.length === 0
          ? "nowhere any more"
          : `${hex(pieces[0].offset)}${pieces.length > 1 ? ` and ${plural(pieces.length - 1, "more piece")}` : ", in one piece"}`,
    ],
    ["gaps", gaps > 0 ? `${bytes(gaps)} of it lie nowhere: they are given back as zeros` : null],
    ["inside", find.inside && "of another find"],
    ["SHA-256", find.sha256],
  ];
  return facts.flatMap(([name, value]) => (value === null ? [] : [[name, value]]));
}
