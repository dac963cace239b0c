import { type Find, KIND_WORDS, KINDS } from "../../core/finds/find.ts";
import { wantWords } from "../../core/triage/intake.ts";
import { peopleWords } from "../people/people-words.ts";
import { useJob, useSessionState } from "../session/use-session.ts";
import { useTrayByWant } from "../session/use-wants-of.ts";
import { Picture } from "../shared/Picture.tsx";
import { bytes, count, plural } from "../shared/words.ts";
import type { Found } from "../worker/finds/protocol.ts";

const SHOWN = 12;

/** The tray by kind, with warnings for what is not whole. */
export function What({ finds }: { finds: readonly Found[] | null }) {
  const sum = useSessionState((state) => state.traySum);
  const gone = finds?.filter(isGone) ?? [];
  const broken = finds?.filter((find) => (find.condition === "damaged" || find.condition === "remnant") && !isGone(find)) ?? [];
  return (
    <section className="panel flex min-h-0 flex-col overflow-y-auto" aria-label="What">
      <div className="flex items-baseline justify-between border-b border-line px-4 py-3">
        <h2 className="text-lg font-bold">What</h2>
        <p className="text-second">
          {count(sum.count)} chosen · {bytes(sum.bytes)}
        </p>
      </div>
      <Asked />
      {!finds && <p className="p-4 text-second">Looking up what was chosen…</p>}
      {KINDS.map((kind) => ({ kind, some: finds?.filter((find) => find.kind === kind) ?? [] }))
        .filter(({ some }) => some.length > 0)
        .map(({ kind, some }) => (
          <div key={kind} className="border-b border-line px-4 py-3">
            <p className="flex justify-between">
              <strong className="first-letter:uppercase">
                {KIND_WORDS[kind]} <span className="font-mono">{count(some.length)}</span>
              </strong>
              <span className="text-second">{bytes(some.reduce((total, { size }) => total + size, 0))}</span>
            </p>
            <p className="text-sm text-second">{conditionWords(some)}</p>
            {kind === "photo" && (
              <ul className="mt-2 grid grid-cols-6 gap-1">
                {some.slice(0, SHOWN).map((find) => (
                  <li key={find.key} className="aspect-[4/3] overflow-hidden rounded">
                    <Picture find={find} side={320} fit="cover" />
                  </li>
                ))}
              </ul>
            )}
          </div>
        ))}
      {peopleWords(sum.people).map((words) => (
        <p key={words} className="border-b border-line px-4 py-3 font-bold">
          {words}
        </p>
      ))}
      {broken.length > 0 && (
        <div className="bg-warning px-4 py-3 text-warning-content">
          <strong>{plural(broken.length, "of them is", "of them are")} not whole</strong>
          <p className="text-sm">
            A part is missing, overwritten or cannot be vouched for. They are given as they are and marked so in the summary.
          </p>
        </div>
      )}
      {gone.length > 0 && (
        <div className="border-t border-line px-4 py-3">
          <strong>{plural(gone.length, "has", "have")} no content left</strong>
          <p className="text-sm text-second">Only the name is known. Nothing is written for them.</p>
        </div>
      )}
    </section>
  );
}

/** What was asked for, with how much of it is in the tray. */
function Asked() {
  const tray = useSessionState((state) => state.tray);
  const { wants } = useJob().intake;
  const counts = useTrayByWant(tray);
  if (wants.length === 0) return null;
  return (
    <ul className="border-b border-line bg-base-200 px-4 py-3 text-sm" aria-label="Asked for">
      {wants.map((want, number) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: wants have no identity of their own.
        <li key={number} className="flex justify-between gap-3">
          <span className="min-w-0 truncate font-semibold">{wantWords(want)}</span>
          <span className={counts?.[number] === 0 ? "font-bold" : "text-second"}>
            {counts === null ? "…" : counts[number] === 0 ? "nothing chosen" : `${count(counts[number])} chosen`}
          </span>
        </li>
      ))}
    </ul>
  );
}

/** Only its entry is left: another file lies in its place. */
const isGone = ({ extents, size }: Find): boolean => extents.length === 0 && size > 0;

function conditionWords(finds: readonly Find[]): string {
  const counts = new Map<string, number>();
  for (const { condition } of finds) counts.set(condition, (counts.get(condition) ?? 0) + 1);
  return [...counts].map(([condition, number]) => `${count(number)} ${condition}`).join(" · ");
}
