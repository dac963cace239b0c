import { ArrowLeft, CircleCheck } from "lucide-react";
import { useSession, useSessionState } from "../session/use-session.ts";
import { plural } from "../shared/words.ts";

/** In place of the tray while what was written is looked at: where it is read from, and the way back. */
export function BackToTicket() {
  const session = useSession();
  const result = useSessionState(({ handOver }) => handOver.result);
  const all = useSessionState(({ answer }) => answer?.all ?? 0);
  return (
    <section className="flex h-14 shrink-0 items-center gap-4 border-t border-line bg-glow px-4 shadow-lift" aria-label="What was written">
      <CircleCheck className="size-5" aria-hidden="true" />
      <p role="status">
        <strong>
          {plural(all, "file")} in “{result?.ok ? result.folder : ""}”
        </strong>
        , shown and played from where {all === 1 ? "it was" : "they were"} written.
      </p>
      <button type="button" className="button button-main ml-auto" onClick={() => void session.looking.lookAt("the ticket")}>
        <ArrowLeft className="size-4" aria-hidden="true" /> Back to what was found
      </button>
    </section>
  );
}
