import { useEffect, useState } from "react";
import type { Find } from "../../core/finds/find.ts";
import { useSession } from "./use-session.ts";

/** The finds with these ids, as the worker has them. Few: what a strip of pictures shows. */
export function useFinds(ids: readonly string[]): readonly Find[] {
  const session = useSession();
  const [finds, setFinds] = useState<readonly Find[]>([]);
  const key = ids.join(" ");
  useEffect(() => {
    let gone = false;
    void session.desk.findsOf(key.split(" ").filter(Boolean)).then((found) => {
      if (!gone) setFinds(found);
    });
    return () => {
      gone = true;
    };
  }, [session, key]);
  return finds;
}
