import { PhoneOff } from "lucide-react";
import type { CallValues } from "../../core/finds/record.ts";
import { EntryRoom } from "../people/EntryRoom.tsx";
import { lengthWords, momentWords } from "../people/people-words.ts";
import { StateShape } from "../shared/Marks.tsx";
import type { PersonEntry } from "../worker/finds/people-desk.ts";
import { CallCard } from "./CallCard.tsx";
import { SIDES } from "./call-words.ts";

/** Who called, when, and for how long? */
export const CallsScreen = () => (
  <EntryRoom
    kind="call"
    title="Calls"
    placeholder="Names and numbers"
    height={48}
    line={(entry) => <Line entry={entry} />}
    card={(entry) => <CallCard key={entry.key} entry={entry} />}
  />
);

function Line({ entry }: { entry: PersonEntry }) {
  const { number, name, at, seconds, direction } = entry.values as CallValues;
  const [words, Icon] = direction ? SIDES[direction] : ["not known", PhoneOff];
  return (
    <>
      <Icon className="size-4 shrink-0 text-second" aria-hidden="true" />
      <span className="w-24 shrink-0 text-sm text-second">{words}</span>
      <span className="min-w-0 flex-1 truncate font-semibold" dir="auto">
        {name ?? (number || "number not known")}
      </span>
      <span className="w-40 shrink-0 truncate font-mono text-sm text-second">{name ? number : ""}</span>
      <span className="w-20 shrink-0 text-right font-mono text-sm">{lengthWords(seconds)}</span>
      <span className="w-56 shrink-0 text-sm text-second">{momentWords(at)}</span>
      <span className="flex w-20 shrink-0 items-center gap-1.5 text-sm">
        {entry.state !== "present" && (
          <>
            <StateShape state={entry.state} /> {entry.state}
          </>
        )}
      </span>
    </>
  );
}
