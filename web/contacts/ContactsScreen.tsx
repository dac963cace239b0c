import type { ContactValues } from "../../core/finds/record.ts";
import { EntryRoom } from "../people/EntryRoom.tsx";
import { initials } from "../people/people-words.ts";
import { StateShape } from "../shared/Marks.tsx";
import { plural } from "../shared/words.ts";
import type { PersonEntry } from "../worker/finds/people-desk.ts";
import { ContactCard } from "./ContactCard.tsx";

/** Is the number really gone, or only hidden? */
export const ContactsScreen = () => (
  <EntryRoom
    kind="contact"
    title="Contacts"
    placeholder="Names, numbers and words"
    height={56}
    line={(entry) => <Line entry={entry} />}
    card={(entry) => <ContactCard key={entry.key} entry={entry} />}
    above={({ hidden = 0 }) =>
      hidden > 0 && (
        <p className="border-b border-line bg-warning px-4 py-2 text-warning-content">
          <strong>{plural(hidden, "is", "are")} not lost, only hidden.</strong> The phone keeps them and does not show them: on the card
          stands why, and how they are shown again.
        </p>
      )
    }
  />
);

function Line({ entry }: { entry: PersonEntry }) {
  const { name, phones = [], emails = [], hiddenBy } = entry.values as ContactValues;
  const shown = name ?? phones[0]?.number ?? emails[0]?.address ?? "no name";
  return (
    <>
      <span
        className="flex size-9 shrink-0 items-center justify-center rounded-field bg-secondary text-sm font-bold text-secondary-content"
        aria-hidden="true"
      >
        {initials(shown)}
      </span>
      <span className="min-w-0 flex-1 leading-tight">
        <span className="block truncate font-semibold" dir="auto">
          {shown}
        </span>
        <span className="block truncate text-[13px] text-second">
          {[phones[0]?.number, phones.length > 1 ? `and ${phones.length - 1} more` : null, emails[0]?.address, hiddenBy?.account]
            .filter(Boolean)
            .join(" · ")}
        </span>
      </span>
      {entry.state !== "present" && (
        <span className="flex items-center gap-1.5 text-sm">
          <StateShape state={entry.state} /> {entry.state}
        </span>
      )}
    </>
  );
}
