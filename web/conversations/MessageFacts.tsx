import { Link } from "react-router";
import { findKey } from "../../core/finds/find-key.ts";
import type { MessageValues } from "../../core/finds/record.ts";
import type { TalkView } from "../../core/stores/people/questions.ts";
import { EntryFacts, Fact } from "../people/EntryFacts.tsx";
import { PersonLink, personPath } from "../people/PersonLink.tsx";
import { momentWords } from "../people/people-words.ts";
import { useJob } from "../session/use-session.ts";
import { count } from "../shared/words.ts";
import type { PersonEntry } from "../worker/finds/people-desk.ts";

const SIDES = { in: "came in", out: "went out", system: "nobody wrote it" } as const;

/** Beside a conversation: the message that is looked at, or who is in it. */
export function MessageFacts({ talk, message, onAll }: { talk: TalkView; message: PersonEntry | null; onAll: () => void }) {
  const { id } = useJob();
  const all = (
    <button type="button" className="button" onClick={onAll}>
      Choose all {count(talk.messages)} of this conversation
    </button>
  );
  if (!message)
    return (
      <aside className="panel flex w-72 shrink-0 flex-col gap-3 overflow-y-auto p-4" aria-label="The conversation">
        <h2 className="font-bold [overflow-wrap:anywhere]">{talk.title}</h2>
        <p className="text-sm text-second">
          {talk.group ? "A group." : "Between two."}{" "}
          {talk.store === "proposed" ? "Read as the tables of its app look." : `Read by ${talk.store || "what was exported"}.`}
        </p>
        <ul className="text-sm">
          {talk.members.slice(0, 200).map(({ name, address }) => (
            <li key={`${address} ${name}`} className="border-b border-line py-1 [overflow-wrap:anywhere]">
              <Link to={personPath(id, address || name || "")} className="block hover:underline">
                {name && <span className="block font-semibold">{name}</span>}
                {address && <span className="block font-mono text-second">{address}</span>}
              </Link>
            </li>
          ))}
        </ul>
        <p className="text-sm text-second">
          Click a message, or go to one with the arrows: here stands where it was found. Shift with either chooses all up to there.
        </p>
        <div className="mt-auto flex flex-col">{all}</div>
      </aside>
    );
  const { direction, at, address, person, text, subject, attachments = [], before = [] } = message.values as MessageValues;
  const own = address ?? person;
  const more = (
    <>
      {own && <PersonLink address={own} />}
      {message.database !== null && message.kind === "chat" && (
        <Link className="button" to={`../meaning/${encodeURIComponent(findKey(message.medium, message.database))}`}>
          How this app is read
        </Link>
      )}
      {all}
    </>
  );
  return (
    <EntryFacts entry={message} title={person ? `Message, ${person}` : "Message"} more={more}>
      <Fact name="sent">{momentWords(at)}</Fact>
      {direction && <Fact name="side">{SIDES[direction]}</Fact>}
      {address && <Fact name={direction === "out" ? "to" : "from"}>{address}</Fact>}
      {subject && <Fact name="subject">{subject}</Fact>}
      {text && text.length > 200 && <Fact name="text">{text}</Fact>}
      {before.map((one) => (
        <Fact key={one.text} name="before">
          {one.text}
        </Fact>
      ))}
      {attachments.map(({ name, type, path }) => (
        <Fact key={`${path} ${name}`} name="file">
          {[name, type, path].filter(Boolean).join(" · ")}
        </Fact>
      ))}
    </EntryFacts>
  );
}
