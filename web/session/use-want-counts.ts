import { useEffect, useRef, useState } from "react";
import type { Want } from "../../core/triage/intake.ts";
import type { WantCount } from "../worker/finds/protocol.ts";
import { useSession, useSessionState } from "./use-session.ts";

/** Milliseconds from one count to the next while things come: a scan tells of new ones several times a second. */
const EVERY = 1200;

/** How much answers each want of the ticket, as finds and people's data come. Null: not counted yet. */
export function useWantCounts(wants: readonly Want[]): readonly WantCount[] | null {
  const session = useSession();
  // The finds and people's data change together: each change counts the latter's up.
  const generation = useSessionState(({ people }) => people.generation);
  const [counts, setCounts] = useState<readonly WantCount[] | null>(null);
  const counted = useRef(0);
  const asked = JSON.stringify(wants);
  // biome-ignore lint/correctness/useExhaustiveDependencies: wants are asked for by what they say.
  useEffect(() => {
    if (wants.length === 0) return setCounts(null);
    let left = false;
    const wait = Math.max(0, counted.current + EVERY - Date.now());
    const later = setTimeout(() => {
      counted.current = Date.now();
      void session.desks.index.countWants([...wants]).then((told) => {
        if (!left) setCounts(told);
      });
    }, wait);
    return () => {
      left = true;
      clearTimeout(later);
    };
  }, [session, generation, asked]);
  return counts?.length === wants.length ? counts : null;
}
