import type { EventValues, MessageValues } from "../../core/finds/record.ts";
import { SmallAttachment } from "../conversations/Attachment.tsx";
import { Marked } from "../people/Marked.tsx";
import { clockWords, dayWords } from "../people/people-words.ts";
import { StateShape } from "../shared/Marks.tsx";
import type { PersonEntry } from "../worker/finds/people-desk.ts";
import { lineWords } from "./person-words.ts";

/** Letters of a text that can be seen in one line. */
const MOST = 200;

/** One line of a person's time: when, what kind of thing, what it says, and its state. */
export function PersonLine({ entry, words, app }: { entry: PersonEntry; words: string; app: string | undefined }) {
  const { at, direction, attachments = [] } = entry.values as MessageValues;
  const moment = at ?? (entry.values as EventValues).start;
  const { what, text } = lineWords(entry);
  const isWritten = entry.kind === "message" || entry.kind === "chat";
  return (
    <>
      <span className="w-32 shrink-0 text-sm text-second">{moment ? dayWords(moment) : ""}</span>
      <span className="w-12 shrink-0 font-mono text-sm text-second">{at ? clockWords(at) : ""}</span>
      <span className="w-28 shrink-0 truncate text-sm text-second" title={app && isWritten ? `${what}, ${app}` : what}>
        {entry.kind === "chat" && app ? app : what}
      </span>
      <span className="min-w-0 flex-1 truncate" dir="auto">
        <Marked text={text.slice(0, MOST)} words={words} />
      </span>
      {attachments.length > 0 && <SmallAttachment medium={entry.medium} attachment={attachments[0]} />}
      <span className="w-16 shrink-0 text-sm text-second">{isWritten && direction !== undefined ? SIDES[direction] : ""}</span>
      <span className="flex w-24 shrink-0 items-center gap-1.5 text-sm">
        {entry.state !== "present" && (
          <>
            <StateShape state={entry.state} /> {entry.state}
          </>
        )}
      </span>
    </>
  );
}

const SIDES = { in: "came in", out: "sent", system: "" } as const;
