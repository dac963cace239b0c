import { ArrowLeft } from "lucide-react";
import { useOffer } from "../session/use-offer.ts";
import { useSession } from "../session/use-session.ts";
import { DropZone } from "../shared/DropZone.tsx";
import { PhoneSource } from "./PhoneSource.tsx";

/** What can be brought to a ticket: from its phone, or dropped. `onDone`: it has storage already, and this can be left. */
export function AddStorage({ onDone }: { onDone: (() => void) | null }) {
  const session = useSession();
  const { busy, refusal, take } = useOffer(async (offered) => {
    const because = await session.addStorage(offered);
    if (because === null) onDone?.();
    return because;
  });
  return (
    <div className="grid flex-1 grid-cols-[1.2fr_1fr] content-start gap-6 p-6">
      <div className="flex flex-col gap-4">
        <div>
          <div className="flex items-center gap-3">
            {onDone && (
              <button type="button" className="button h-8" onClick={onDone}>
                <ArrowLeft className="size-4" aria-hidden="true" /> Back
              </button>
            )}
            <h1 className="text-lg font-bold">{onDone ? "Add a medium to this ticket" : "This ticket has no storage yet."}</h1>
          </div>
          <p className="mt-1 text-second">
            {onDone
              ? "The phone, its card, an old backup: each is scanned for itself, and their finds stand together. "
              : "Take it from the phone, or take the memory card out, put it into a reader with its write lock on, make an image of it, and drop the image here. "}
            Jubar only ever reads it.
          </p>
        </div>
        <PhoneSource onFound={() => onDone?.()} />
      </div>
      <DropZone busy={busy} refusal={refusal} onOffer={(offered) => void take(offered)} what="Drop this ticket's storage here" />
    </div>
  );
}
