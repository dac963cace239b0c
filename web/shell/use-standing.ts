import { useLiveQuery } from "dexie-react-hooks";
import { useEffect, useState } from "react";
import { database } from "../kept/database.ts";
import { type CopyNews, Line } from "../kept/news.ts";
import { PartRecord } from "../kept/part.ts";
import { type MediumState, scanOf } from "../session/session-state.ts";
import { useJob } from "../session/use-session.ts";
import type { Standing } from "./scan-words.ts";

/** Where each medium of the ticket stands: its scan, or the copy that is made first. */
export function useStanding(media: readonly MediumState[]): Standing[] {
  const { id } = useJob();
  const copies = useCopies(id);
  const parts = useLiveQuery(async () => PartRecord.array().parse(await database.parts.where("job").equals(id).toArray()), [id]) ?? [];
  return media.map((state) => {
    const { medium, news } = state;
    const part = medium.source ? undefined : parts.find((one) => one.medium === medium.id);
    const heard = copies.get(medium.id);
    return {
      scan: scanOf(state),
      secondsLeft: news?.secondsLeft ?? null,
      copy: part ? { status: heard?.status ?? part.status, done: heard?.done ?? part.mark.done, size: part.size } : null,
    };
  });
}

/** What was heard of copies of this ticket since the strip is there. */
function useCopies(job: number): ReadonlyMap<number, CopyNews> {
  const [copies, setCopies] = useState<ReadonlyMap<number, CopyNews>>(new Map());
  useEffect(() => {
    const line = new Line((notice) => {
      if (notice.type === "copy" && notice.job === job) setCopies((known) => new Map([...known, [notice.medium, notice.copy]]));
    });
    return () => line.close();
  }, [job]);
  return copies;
}
