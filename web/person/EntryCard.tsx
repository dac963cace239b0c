import { ArrowLeft } from "lucide-react";
import type { ReactNode } from "react";
import type { MessageValues } from "../../core/finds/record.ts";
import { EventCard } from "../calendar/EventCard.tsx";
import { CallCard } from "../calls/CallCard.tsx";
import { ContactCard } from "../contacts/ContactCard.tsx";
import { EntryFacts, Fact } from "../people/EntryFacts.tsx";
import { momentWords } from "../people/people-words.ts";
import type { PersonEntry } from "../worker/finds/people-desk.ts";

/** One thing of a person's time line, with all that is known of it; and the way back to who it is. */
export function EntryCard({ entry, onBack }: { entry: PersonEntry; onBack: () => void }) {
  return (
    <div className="flex min-h-0 w-72 shrink-0 flex-col gap-2">
      <button type="button" className="button self-start" onClick={onBack}>
        <ArrowLeft className="size-4" aria-hidden="true" /> Who this is
      </button>
      <div className="flex min-h-0 flex-1">{cardOf(entry)}</div>
    </div>
  );
}

function cardOf(entry: PersonEntry): ReactNode {
  if (entry.kind === "contact") return <ContactCard key={entry.key} entry={entry} />;
  if (entry.kind === "call") return <CallCard key={entry.key} entry={entry} />;
  if (entry.kind === "event") return <EventCard key={entry.key} entry={entry} />;
  const { text, subject, at, address, person, direction, attachments = [] } = entry.values as MessageValues;
  return (
    <EntryFacts key={entry.key} entry={entry} title={person ? `Message, ${person}` : "Message"}>
      <Fact name="sent">{momentWords(at)}</Fact>
      {address && <Fact name={direction === "out" ? "to" : "from"}>{address}</Fact>}
      {subject && <Fact name="subject">{subject}</Fact>}
      {text && <Fact name="text">{text}</Fact>}
      {attachments.map(({ name, type, path }) => (
        <Fact key={`${path} ${name}`} name="file">
          {[name, type, path].filter(Boolean).join(" · ")}
        </Fact>
      ))}
    </EntryFacts>
  );
}
