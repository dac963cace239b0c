import { useState } from "react";
import type { ContactValues } from "../../core/finds/record.ts";
import { asItWas } from "../../core/stores/people/as-it-was.ts";
import { EntryRoom } from "../people/EntryRoom.tsx";
import { Face } from "../people/Face.tsx";
import { StateShape } from "../shared/Marks.tsx";
import { plural } from "../shared/words.ts";
import type { PersonEntry } from "../worker/finds/people-desk.ts";
import { ContactCard } from "./ContactCard.tsx";

/** Is the number really gone, or only hidden? And what was it before? */
export function ContactsScreen() {
  const [day, setDay] = useState("");
  // The end of that day, where the technician is.
  const end = day === "" ? Number.NaN : new Date(`${day}T23:59:59`).getTime();
  const moment = Number.isNaN(end) ? null : end;
  return (
    <EntryRoom
      kind="contact"
      title="Contacts"
      placeholder="Names, numbers and words"
      height={56}
      line={(entry) => <Line entry={entry} moment={moment} />}
      card={(entry) => <ContactCard key={entry.key} entry={entry} moment={moment} />}
      beside={
        <label className="ml-auto flex items-center gap-2 text-sm">
          <span className="text-second">as it was on</span>
          <input type="date" className="input h-8 w-40" value={day} onChange={({ target }) => setDay(target.value)} />
        </label>
      }
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
}

function Line({ entry, moment }: { entry: PersonEntry; moment: number | null }) {
  const now = entry.values as ContactValues;
  const then = moment === null ? null : asItWas(now, entry.state, moment);
  const { name, phones = [], emails = [], hiddenBy } = then?.values ?? now;
  const shown = name ?? phones[0]?.number ?? emails[0]?.address ?? "no name";
  return (
    <>
      <Face name={shown} photo={now.photo} />
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
      {then && then.there !== "yes" && (
        <span className="text-sm text-second">{then.there === "no" ? "gone by then" : "gone, since when is not known"}</span>
      )}
      {(then ? then.values !== now || then.open.length > 0 : (now.history?.length ?? 0) > 0) && (
        <span className="rounded bg-glow px-1.5 text-sm">
          {then ? (then.values === now ? "may have been other" : "was other") : "said other things before"}
        </span>
      )}
      {entry.state !== "present" && (
        <span className="flex items-center gap-1.5 text-sm">
          <StateShape state={entry.state} /> {entry.state}
        </span>
      )}
    </>
  );
}
