import { Paperclip } from "lucide-react";
import { useEffect, useState } from "react";
import { formatNamed } from "../../core/filetypes/table.ts";
import type { AttachmentValues } from "../../core/finds/record.ts";
import { useSession, useSessionState } from "../session/use-session.ts";
import { StateShape } from "../shared/Marks.tsx";
import { Picture } from "../shared/Picture.tsx";
import type { Found } from "../worker/finds/protocol.ts";

interface Props {
  readonly medium: number;
  readonly attachment: AttachmentValues;
  /** It is shown large. */
  readonly onOpen: (find: Found) => void;
}

/** Pixels of a side of its picture. */
const SIDE = 320;
const fileName = (path: string | undefined) => path?.split(/[/\\]/).at(-1);

/** A file of a message: shown where it is on the storage, named where it is not. */
export function Attachment({ medium, attachment: { name, path, type }, onOpen }: Props) {
  const session = useSession();
  const generation = useSessionState((state) => state.people.generation);
  const [find, setFind] = useState<Found | null | undefined>(undefined);
  const called = path ?? name;
  // biome-ignore lint/correctness/useExhaustiveDependencies: what comes while a scan goes on may be it.
  useEffect(() => {
    let left = false;
    if (!called) return setFind(null);
    void session.desks.index.attached(medium, [called]).then(([told]) => {
      if (!left) setFind(told);
    });
    return () => {
      left = true;
    };
  }, [session, medium, called, generation]);
  const words = name ?? fileName(path) ?? type ?? "a file";
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
  const isSeen = ["image", "video"].includes(formatNamed(find.format).preview ?? "");
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
