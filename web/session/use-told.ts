import { useEffect, useState } from "react";

/** What is told when it is asked for; undefined until then, and what was told before until it is told anew. `about`: what the question depends on. */
export function useTold<T>(ask: () => Promise<T>, about: readonly unknown[]): T | undefined {
  const [told, setTold] = useState<T | undefined>(undefined);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the question is a new function each time; it says itself what it depends on
  useEffect(() => {
    let gone = false;
    void ask().then((answer) => {
      if (!gone) setTold(answer);
    });
    return () => {
      gone = true;
    };
  }, [...about]);
  return told;
}
