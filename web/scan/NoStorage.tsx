import { useOffer } from "../session/use-offer.ts";
import { useSession } from "../session/use-session.ts";
import { DropZone } from "../shared/DropZone.tsx";
import { PhoneSource } from "./PhoneSource.tsx";

/** A ticket that has no storage yet: what to bring, and where to drop it. */
export function NoStorage() {
  const session = useSession();
  const { busy, refusal, take } = useOffer((offered) => session.giveStorage(offered));
  return (
    <main className="grid flex-1 grid-cols-[1.2fr_1fr] content-start gap-6 p-6">
      <div className="flex flex-col gap-4">
        <div>
          <h1 className="text-lg font-bold">This ticket has no storage yet.</h1>
          <p className="mt-1 text-second">
            Take it from the phone, or take the memory card out, put it into a reader with its write lock on, make an image of it, and drop
            the image here. Jubar only ever reads it.
          </p>
        </div>
        <PhoneSource />
      </div>
      <DropZone busy={busy} refusal={refusal} onOffer={(offered) => void take(offered)} what="Drop this ticket's storage here" />
    </main>
  );
}
