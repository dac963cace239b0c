import { EVERYTHING, type Query } from "../../core/finds/find-query.ts";
import type { Want, Wanted } from "../../core/triage/intake.ts";
import { findsWanted, loosened } from "../../core/wants/questions.ts";
import type { Session } from "./session.ts";

/** Where a want that is no files' is shown. */
const ROOMS: Partial<Record<Wanted, string>> = { contacts: "contacts", calls: "calls", calendar: "calendar" };

/** Goes to what answers a want: the wall, filtered, or the room where such entries are. `go`: to a path, with what is told to the screen there. */
export async function showWant(
  session: Session,
  want: Want,
  isOfFiles: boolean,
  go: (path: string, told: object) => unknown,
): Promise<void> {
  session.takeFirstWant();
  const asked = findsWanted(want);
  if (asked && isOfFiles) {
    const { sort, group } = session.store.getState().query;
    // Words that no find is called by narrow nothing: whoever asks for photos of a tour is shown the photos.
    const [{ loose }] = await session.desks.index.countWants([want]);
    await session.ask({ ...((loose > 0 && loosened(want)) || asked), sort, group });
    await go(`/ticket/${session.id}/finds`, {});
  } else await go(`/ticket/${session.id}/finds/${ROOMS[want.kind] ?? "conversations"}`, { state: { want } });
}

/** Is this want what the wall is filtered to, whatever its order? */
export function isShown(want: Want, query: Query): boolean {
  const asked = findsWanted(want);
  const plain = ({ sort: _, group: __, ...rest }: Query) => JSON.stringify(rest);
  const shown = plain({ ...EVERYTHING, ...query });
  const wider = loosened(want);
  return asked !== null && (shown === plain(asked) || (wider !== null && shown === plain(wider)));
}
