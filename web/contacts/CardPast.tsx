import type { ContactChange } from "../../core/finds/record.ts";
import { DAY, datedDay } from "../shared/words.ts";

const dayOf = (iso: string): string => datedDay(Math.floor(Date.parse(iso) / DAY));

/** When a change was made, as far as anything says. */
function whenWords({ after, before, by }: ContactChange): string {
  const told = by ? `, ${by} shows` : "";
  if (after && before)
    return dayOf(after) === dayOf(before) ? `on ${dayOf(after)}${told}` : `between ${dayOf(after)} and ${dayOf(before)}${told}`;
  if (before) return `before ${dayOf(before)}`;
  return after ? `after ${dayOf(after)}${told}` : "nothing says when";
}

/** What a contact said before, latest first. */
export function CardPast({ past, erasedAt }: { past: readonly ContactChange[]; erasedAt: string | undefined }) {
  if (past.length === 0 && !erasedAt) return null;
  return (
    <section className="border-t border-dashed border-line pt-3 text-sm" aria-label="What it said before">
      <h3 className="font-bold">What it said before</h3>
      {erasedAt && <p>Erased on {dayOf(erasedAt)}, as the address book noted.</p>}
      <ol className="flex flex-col gap-1.5">
        {past.map((change, index) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: changes have no identity of their own, and the list does not change.
          <li key={index} className="leading-snug">
            <span className="text-second">{change.field}</span>{" "}
            <span className={`[overflow-wrap:anywhere] ${change.field === "number" ? "font-mono" : ""}`} dir="auto">
              {change.was}
            </span>
            <span className="block text-second">
              {change.became === undefined ? "taken out" : `became ${change.became}`} · {whenWords(change)}
            </span>
          </li>
        ))}
      </ol>
    </section>
  );
}
