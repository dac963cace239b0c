import { Trash2 } from "lucide-react";
import type { MediumState } from "../session/session-state.ts";
import { useSession } from "../session/use-session.ts";
import { ask } from "../shared/ask.ts";

/** Sets a medium aside or takes it up again, or takes it out of the ticket. */
export function MediumActions({ state: { medium } }: { state: MediumState }) {
  const session = useSession();
  async function takeOut() {
    const words = "All that was found on it is forgotten with it. The storage itself is not touched.";
    if (await ask(`Take ${medium.name} out of this ticket?`, words, "Take it out")) await session.removeMedium(medium.id);
  }
  return (
    <>
      <button type="button" className="button h-8" onClick={() => void session.setAside(medium.id, !medium.aside)}>
        {medium.aside ? "Take it up again" : "Set aside"}
      </button>
      <button
        type="button"
        className="button h-8 w-8 px-0"
        aria-label={`Take ${medium.name} out of this ticket`}
        title="Take it out of this ticket; the storage is not touched"
        onClick={() => void takeOut()}
      >
        <Trash2 className="size-4" aria-hidden="true" />
      </button>
    </>
  );
}
