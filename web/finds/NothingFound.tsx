import { wantWords } from "../../core/triage/intake.ts";
import { inUse, type MediumState, scanOf } from "../session/session-state.ts";
import { isShown } from "../session/show-want.ts";
import { useJob, useMedia, useSession, useSessionState } from "../session/use-session.ts";
import { whyNoErased } from "../session/why-empty.ts";
import { isFiltered, showAll } from "./filters.ts";

/** Why the wall is empty, and what would fill it. */
export function NothingFound() {
  const query = useSessionState((state) => state.query);
  const media = inUse(useMedia());
  const session = useSession();
  const want = useJob().intake.wants.find((one) => isShown(one, query));
  const isAnything = useSessionState(({ answer }) => (answer?.all ?? 0) > 0);
  const filtered = isFiltered(query) && isAnything;
  if (want && isAnything)
    return (
      <div className="flex-1 p-8">
        <p className="text-lg font-bold">Nothing that was found so far answers “{wantWords(want)}”.</p>
        <button type="button" className="button mt-3" onClick={() => void session.ask(showAll(query))}>
          Show everything that was found
        </button>
      </div>
    );
  return (
    <div className="flex-1 p-8">
      <p className="text-lg font-bold">{filtered ? "Nothing passes these filters." : "Nothing was found yet."}</p>
      <p className="mt-1 text-second">
        {filtered
          ? ((query.states.includes("erased") ? whyOf(media) : null) ?? "Take a filter off, or show all.")
          : media.length > 0 && media.every((state) => scanOf(state).status === "done")
            ? "The storage was read to its end, and nothing that can be known is left in it."
            : "Start the scan at Copy & scan; finds appear here as they come."}
      </p>
    </div>
  );
}

/** Why no medium of the ticket has erased things: said only where that is so of each. */
function whyOf(media: readonly MediumState[]): string | null {
  const reasons = media.map((state) => whyNoErased(scanOf(state), state.medium.source));
  return reasons.every((why) => why !== null) ? [...new Set(reasons)].join(" ") : null;
}
