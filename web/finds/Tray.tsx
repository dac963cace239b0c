import { ArrowRight } from "lucide-react";
import { Link } from "react-router";
import { KIND_WORDS, KINDS } from "../../core/finds/find.ts";
import { peopleWords } from "../people/people-words.ts";
import { useFinds } from "../session/use-finds.ts";
import { useSession, useSessionState } from "../session/use-session.ts";
import { Picture } from "../shared/Picture.tsx";
import { bytes, count } from "../shared/words.ts";

const SHOWN = 5;

/** The chosen finds, along the bottom. */
export function Tray({ all }: { all?: { readonly count: number; keys(): Promise<readonly string[]> } }) {
  const session = useSession();
  const tray = useSessionState((state) => state.tray);
  const sum = useSessionState((state) => state.traySum);
  const found = useSessionState((state) => state.answer?.total ?? 0);
  const shown = all ? all.count : found;
  const finds = useFinds([...tray].slice(-SHOWN));
  return (
    <section className="flex h-14 shrink-0 items-center gap-4 border-t border-line bg-base-100 px-4 shadow-lift" aria-label="Tray">
      <h2 className="font-bold">Tray</h2>
      {finds.length > 0 && (
        <ul className="flex" aria-hidden="true">
          {finds.map((find) => (
            <li key={find.key} className="-ml-1.5 h-9 w-10 overflow-hidden rounded border-2 border-base-100 first:ml-0">
              <Picture find={find} side={320} fit="cover" />
            </li>
          ))}
        </ul>
      )}
      <p role="status">
        {sum.count === 0 ? (
          <span className="text-second">Nothing chosen yet</span>
        ) : (
          <strong>
            {count(sum.count)} chosen{sum.bytes > 0 && ` · ${bytes(sum.bytes)}`}
          </strong>
        )}
        <span className="ml-4 text-second">
          {[
            ...KINDS.flatMap((kind) => (sum.kinds[kind] ? [`${count(sum.kinds[kind])} ${KIND_WORDS[kind]}`] : [])),
            ...peopleWords(sum.people),
          ].join(" · ")}
        </span>
        {sum.damaged > 0 && <strong className="ml-4">{count(sum.damaged)} damaged</strong>}
      </p>
      <span className="ml-auto flex items-center gap-2 text-sm text-second">
        Put in tray <kbd className="key">Space</kbd> open <kbd className="key">Enter</kbd>
      </span>
      <button
        type="button"
        className="button"
        disabled={!shown}
        onClick={() => void (all ? all.keys() : session.desks.index.answerKeys()).then((keys) => session.choose(keys, true))}
      >
        Choose all {shown ? count(shown) : ""} shown
      </button>
      <button type="button" className="button" disabled={sum.count === 0} onClick={() => void session.choose([...tray], false)}>
        Empty tray
      </button>
      <Link to="../hand-over" className="button button-main">
        Hand over <ArrowRight className="size-4" aria-hidden="true" />
      </Link>
    </section>
  );
}
