import type { MessageValues } from "../../core/finds/record.ts";
import { Marked } from "../people/Marked.tsx";
import { clockWords } from "../people/people-words.ts";
import { StateShape } from "../shared/Marks.tsx";
import type { PersonEntry } from "../worker/finds/people-desk.ts";
import type { Found } from "../worker/finds/protocol.ts";
import { Attachment } from "./Attachment.tsx";

interface Props {
  readonly message: PersonEntry;
  readonly isGroup: boolean;
  readonly words: string;
  readonly isSelected: boolean;
  readonly isChosen: boolean;
  /** `upTo`: and all from the one that was looked at before are chosen. */
  readonly onSelect: (upTo: boolean) => void;
  /** A file of it is looked at. */
  readonly onOpen: (find: Found) => void;
}

/** Longer texts are cut where they stand in the conversation; beside it they are whole. */
const MOST = 2000;
/** Files of one message that are shown. */
const MOST_FILES = 20;

/** One message: on the left what came, on the right what went. */
export function Message({ message, isGroup, words, isSelected, isChosen, onSelect, onOpen }: Props) {
  const { text = "", direction, at, person, address, attachments = [], before = [], draft, edited } = message.values as MessageValues;
  const isErased = message.state === "erased" || message.state === "unclear";
  if (direction === "system")
    return (
      <div
        className="py-1.5 text-center text-sm text-second"
        role="option"
        aria-selected={isSelected}
        dir="auto"
        onClick={({ shiftKey }) => onSelect(shiftKey)}
        onKeyDown={() => {}}
        tabIndex={-1}
      >
        {isErased && <StateWord state={message.state} />} <Marked text={text.slice(0, MOST)} words={words} /> · {clockWords(at)}
      </div>
    );
  const side = direction === "out" ? "ml-auto bg-secondary" : "mr-auto bg-base-300";
  const colours = isErased || message.state === "binned" ? "border-2 border-ink bg-base-100" : `border border-transparent ${side}`;
  return (
    <div className="flex py-1">
      <div
        role="option"
        aria-selected={isSelected}
        tabIndex={-1}
        onClick={({ shiftKey }) => onSelect(shiftKey)}
        onKeyDown={() => {}}
        className={`relative max-w-[70%] min-w-36 cursor-pointer rounded-box px-3 py-2 ${direction === "out" ? "ml-auto" : "mr-auto"} ${colours} ${isSelected ? "outline-3 outline-accent" : ""}`}
      >
        {isChosen && <span className="chosen-corner" title="in the tray" />}
        {text && (
          <p className="whitespace-pre-wrap [overflow-wrap:anywhere]" dir="auto">
            <Marked text={text.slice(0, MOST)} words={words} />
            {text.length > MOST ? "…" : ""}
          </p>
        )}
        {attachments.slice(0, MOST_FILES).map((attachment, index) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: attachments have no names that are their own, and do not change.
          <Attachment key={index} medium={message.medium} attachment={attachment} onOpen={onOpen} />
        ))}
        {attachments.length > MOST_FILES && <p className="text-sm text-second">and {attachments.length - MOST_FILES} more files</p>}
        {!text && attachments.length === 0 && <p className="text-second italic">nothing written</p>}
        <p className="mt-0.5 flex flex-wrap items-center gap-x-1.5 text-[13px] text-second">
          {message.state !== "present" && <StateWord state={message.state} />}
          {message.condition !== "whole" && <span>{message.condition} ·</span>}
          {draft && <span>draft ·</span>}
          {isGroup && direction === "in" && <span dir="auto">{person ?? address ?? "somebody"} ·</span>}
          <span>{clockWords(at)}</span>
          {(edited || before.length > 0) && <span>· edited{before.length > 0 ? `: “${before[0].text.slice(0, 60)}”` : ""}</span>}
        </p>
      </div>
    </div>
  );
}

const StateWord = ({ state }: Pick<PersonEntry, "state">) => (
  <span className="inline-flex items-center gap-1 font-semibold text-ink">
    <StateShape state={state} /> {state}
  </span>
);
