import { useEffect, useState } from "react";
import type { Looking } from "../session/looking.ts";
import { useSession } from "../session/use-session.ts";

/** What is answered to a question about a find; undefined until then. `about`: what the question depends on: when it changes it is asked again. */
export function useAnswer<T>(ask: (looking: Looking) => Promise<T>, about: readonly unknown[]): T | undefined {
  const { looking } = useSession();
  const [answer, setAnswer] = useState<T | undefined>(undefined);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the question is a new function each time; it says itself what it depends on
  useEffect(() => {
    let gone = false;
    void ask(looking).then((told) => {
      if (!gone) setAnswer(told);
    });
    return () => {
      gone = true;
    };
  }, [looking, ...about]);
  return answer;
}
