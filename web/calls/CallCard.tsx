import type { CallValues } from "../../core/finds/record.ts";
import { EntryFacts, Fact } from "../people/EntryFacts.tsx";
import { PersonLink } from "../people/PersonLink.tsx";
import { lengthWords, momentWords } from "../people/people-words.ts";
import type { PersonEntry } from "../worker/finds/people-desk.ts";
import { SIDES } from "./call-words.ts";

/** All that is known of a call. */
export function CallCard({ entry }: { entry: PersonEntry }) {
  const { number, name, at, seconds, direction } = entry.values as CallValues;
  return (
    <EntryFacts entry={entry} title={name ?? (number || "Number not known")} more={number && <PersonLink address={number} />}>
      {number && (
        <Fact name="number">
          <span className="font-mono">{number}</span>
        </Fact>
      )}
      <Fact name="when">{momentWords(at)}</Fact>
      {direction && <Fact name="how">{SIDES[direction][0]}</Fact>}
      {seconds !== undefined && <Fact name="length">{lengthWords(seconds)}</Fact>}
    </EntryFacts>
  );
}
