import { useEffect, useState } from "react";
import type { Found } from "../worker/finds/protocol.ts";
import { useSession, useSessionState } from "./use-session.ts";

/** The finds with these keys, as the worker has them. Few: what a strip of pictures shows. */
export function useFinds(keys: readonly string[]): readonly Found[] {
  const session = useSession();
  const [finds, setFinds] = useState<readonly Found[]>([]);
  const key = keys.join(" ");
  // What is told of a find may come before the index knows it: it is asked again when it knows more.
  const generation = useSessionState(({ answer }) => answer?.generation ?? 0);
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked again when more is known.
  useEffect(() => {
    let gone = false;
    void session.desks.index.findsOf(key.split(" ").filter(Boolean)).then((found) => {
      if (!gone) setFinds(found);
    });
    return () => {
      gone = true;
    };
  }, [session, key, generation]);
  return finds;
}
