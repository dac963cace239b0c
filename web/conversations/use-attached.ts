import { useEffect, useState } from "react";
import type { AttachmentValues } from "../../core/finds/record.ts";
import { useSession, useSessionState } from "../session/use-session.ts";
import type { Found } from "../worker/finds/protocol.ts";

/** The find that a message's file is, on its medium. Null: none of what was found is it; undefined: not yet known. */
export function useAttached(medium: number, attachment: AttachmentValues | undefined): Found | null | undefined {
  const session = useSession();
  const generation = useSessionState((state) => state.people.generation);
  const [find, setFind] = useState<Found | null | undefined>(undefined);
  const called = attachment?.path ?? attachment?.name;
  // biome-ignore lint/correctness/useExhaustiveDependencies: what comes while a scan goes on may be it.
  useEffect(() => {
    let left = false;
    if (!called) return setFind(null);
    void session.desks.index.attached(medium, [called]).then(([told]) => {
      if (!left) setFind(told);
    });
    return () => {
      left = true;
    };
  }, [session, medium, called, generation]);
  return find;
}
