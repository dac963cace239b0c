import { useLiveQuery } from "dexie-react-hooks";
import { database } from "../kept/database.ts";
import { KeptPart } from "../kept/part.ts";
import { copyOf, type MediumState, scanOf } from "../session/session-state.ts";
import { useJob } from "../session/use-session.ts";
import type { Standing } from "./scan-words.ts";

/** Where each medium of the ticket stands: its scan, or the copy that is made first. */
export function useStanding(media: readonly MediumState[]): Standing[] {
  const { id } = useJob();
  const parts = useLiveQuery(async () => KeptPart.array().parse(await database.parts.where("job").equals(id).toArray()), [id]) ?? [];
  return media.map((state) => {
    const { medium, news } = state;
    const part = medium.source ? undefined : parts.find((one) => one.medium === medium.id);
    return { scan: scanOf(state), secondsLeft: news?.secondsLeft ?? null, copy: part ? { ...copyOf(state, part), size: part.size } : null };
  });
}
