import { useLiveQuery } from "dexie-react-hooks";
import { useEffect, useState } from "react";
import { loadPart } from "../kept/database.ts";
import { type CopyNews, Line } from "../kept/news.ts";
import { Ownership } from "../kept/ownership.ts";
import type { PartRecord } from "../kept/part.ts";
import { isUnderWay } from "../kept/scan-record.ts";

/** Which part of a phone a medium is, as it is kept; null where it is none. */
export const usePart = (medium: number): PartRecord | null => useLiveQuery(() => loadPart(medium), [medium]) ?? null;

/** Milliseconds between two looks at whether anybody works on a copy. */
const LOOK_EVERY = 1000;

/** How far a copy is now: what is kept of it, what was heard since, and whether anybody works on it at all. */
export function useCopyNow(part: PartRecord): CopyNews {
  const { medium, job } = part;
  const [heard, setHeard] = useState<CopyNews | null>(null);
  const [isTaken, setTaken] = useState(true);
  useEffect(() => {
    setHeard(null);
    const line = new Line((notice) => {
      if (notice.type === "copy" && notice.job === job && notice.medium === medium) setHeard(notice.copy);
    });
    const look = () => void Ownership.isTaken(medium).then(setTaken);
    look();
    const timer = setInterval(look, LOOK_EVERY);
    return () => {
      line.close();
      clearInterval(timer);
    };
  }, [medium, job]);
  const now = heard ?? { status: part.status, because: part.because, done: part.mark.done };
  // Kept as under way while nobody works on it: its page was closed.
  const isLeft = !isTaken && (isUnderWay(now) || now.status === "held" || now.status === "paused");
  return isLeft ? { ...now, status: "stopped" } : now;
}
