import { Paperclip } from "lucide-react";
import { formatNamed } from "../../core/filetypes/table.ts";
import type { AttachmentValues } from "../../core/finds/record.ts";
import { fileWords } from "../people/people-words.ts";
import { StateShape } from "../shared/Marks.tsx";
import { Picture } from "../shared/Picture.tsx";
import type { Found } from "../worker/finds/protocol.ts";
import { useAttached } from "./use-attached.ts";

interface Props {
  readonly medium: number;
  readonly attachment: AttachmentValues;
  /** It is shown large. */
  readonly onOpen: (find: Found) => void;
}

/** Pixels of a side of its picture. */
const SIDE = 320;
const SMALL_SIDE = 160;
/** Is it something to see in small? */
const hasPicture = (find: Found): boolean => ["image", "video"].includes(formatNamed(find.format).preview ?? "");

/** A file of a message: shown where it is on the storage, named where it is not. */
export function Attachment({ medium, attachment, onOpen }: Props) {
  const find = useAttached(medium, attachment);
  const called = attachment.path ?? attachment.name;
  const words = fileWords(attachment);
  if (!find)
    return (
      <p
        className="flex items-center gap-1.5 text-sm [overflow-wrap:anywhere]"
        title={find === null ? "It is not among what was found" : undefined}
      >
        <Paperclip className="size-3.5 shrink-0" aria-hidden="true" />
        {words}
        {find === null && called && <span className="text-second">· not found</span>}
      </p>
    );
  const isSeen = hasPicture(find);
  return (
    <button
      type="button"
      className="my-1 flex max-w-full cursor-pointer items-center gap-2 rounded-field border border-line bg-base-100 p-1 text-left text-sm hover:border-ink"
      aria-label={`Look at ${words}`}
      onClick={(event) => {
        event.stopPropagation();
        onOpen(find);
      }}
    >
      {isSeen && (
        <span className="block h-24 w-32 shrink-0 overflow-hidden rounded-field">
          <Picture find={find} side={SIDE} fit="cover" />
        </span>
      )}
      {!isSeen && <Paperclip className="ml-1 size-3.5 shrink-0" aria-hidden="true" />}
      <span className="min-w-0 pr-2 [overflow-wrap:anywhere]">
        {words}
        {find.state !== "present" && (
          <span className="flex items-center gap-1 font-semibold">
            <StateShape state={find.state} /> {find.state}
          </span>
        )}
      </span>
    </button>
  );
}

/** The first file of a message in small, for a list of one line each. */
export function SmallAttachment({ medium, attachment }: Omit<Props, "onOpen">) {
  const find = useAttached(medium, attachment);
  if (!find || !hasPicture(find)) return <Paperclip className="size-4 shrink-0 text-second" aria-label="with files" />;
  return (
    <span className="block h-9 w-14 shrink-0 overflow-hidden rounded-field">
      <Picture find={find} side={SMALL_SIDE} fit="cover" />
    </span>
  );
}
