import { ArrowLeft } from "lucide-react";
import type { ReactNode } from "react";
import type { MessageValues } from "../../core/finds/record.ts";
import { EventCard } from "../calendar/EventCard.tsx";
import { CallCard } from "../calls/CallCard.tsx";
import { ContactCard } from "../contacts/ContactCard.tsx";
import { Attachment } from "../conversations/Attachment.tsx";
import { EntryFacts, Fact } from "../people/EntryFacts.tsx";
import { momentWords } from "../people/people-words.ts";
import type { PersonEntry } from "../worker/finds/people-desk.ts";
import type { Found } from "../worker/finds/protocol.ts";

/** Files of one message that are shown. */
const MOST_FILES = 20;

/** One thing of a person's time line, with all that is known of it; and the way back to who it is. */
export function EntryCard({ entry, onBack, onOpen }: { entry: PersonEntry; onBack: () => void; onOpen: (find: Found) => void }) {
  return (
    <div className="flex min-h-0 w-72 shrink-0 flex-col gap-2">
      <button type="button" className="button self-start" onClick={onBack}>
        <ArrowLeft className="size-4" aria-hidden="true" /> Who this is
      </button>
      <div className="flex min-h-0 flex-1">{cardOf(entry, onOpen)}</div>
    </div>
  );
}

function cardOf(entry: PersonEntry, onOpen: (find: Found) => void): ReactNode {
  if (entry.kind === "contact") return <ContactCard key={entry.key} entry={entry} moment={null} />;
  if (entry.kind === "call") return <CallCard key={entry.key} entry={entry} />;
  if (entry.kind === "event") return <EventCard key={entry.key} entry={entry} />;
  const { text, subject, at, address, person, direction, attachments = [] } = entry.values as MessageValues;
  return (
    <EntryFacts key={entry.key} entry={entry} title={person ? `Message, ${person}` : "Message"}>
      <Fact name="sent">{momentWords(at)}</Fact>
      {address && <Fact name={direction === "out" ? "to" : "from"}>{address}</Fact>}
      {subject && <Fact name="subject">{subject}</Fact>}
      {text && <Fact name="text">{text}</Fact>}
      {attachments.slice(0, MOST_FILES).map((attachment) => (
        <Fact key={`${attachment.path} ${attachment.name}`} name="file">
          <Attachment medium={entry.medium} attachment={attachment} onOpen={onOpen} />
        </Fact>
      ))}
    </EntryFacts>
  );
}
