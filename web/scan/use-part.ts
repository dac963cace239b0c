import { useLiveQuery } from "dexie-react-hooks";
import { loadPart } from "../kept/database.ts";
import type { CopyNews } from "../kept/news.ts";
import type { KeptPart } from "../kept/part.ts";
import { copyOf } from "../session/session-state.ts";
import { useMedium } from "../session/use-session.ts";

/** Which part of a phone a medium is, as it is kept; null where it is none. */
export const usePart = (medium: number): KeptPart | null => useLiveQuery(() => loadPart(medium), [medium]) ?? null;

/** How far the working copy of a part is now. */
export function useCopyNow(part: KeptPart): CopyNews {
  return copyOf(useMedium(part.medium) ?? { copy: null, worked: "nowhere" }, part);
}
