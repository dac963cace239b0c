import { useEffect, useState } from "react";
import type { Found } from "../worker/finds/protocol.ts";
import { useSession } from "./use-session.ts";

/** The finds with these keys, as the worker has them. Few: what a strip of pictures shows. */
export function useFinds(keys: readonly string[]): readonly Found[] {
  const session = useSession();
  const [finds, setFinds] = useState<readonly Found[]>([]);
  const key = keys.join(" ");
  useEffect(() => {
    let gone = false;
    void session.desks.index.findsOf(key.split(" ").filter(Boolean)).then((found) => {
      if (!gone) setFinds(found);
    });
    return () => {
      gone = true;
    };
  }, [session, key]);
  return finds;
}
