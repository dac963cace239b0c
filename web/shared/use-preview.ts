import { useEffect, useRef, useState } from "react";
import type { Preview } from "../session/looking.ts";
import { useMedium, useSession } from "../session/use-session.ts";
import { type Found, isOfTicket } from "../worker/finds/protocol.ts";

/** What is shown of a find: undefined while it is drawn, null where there is nothing to be shown. */
export function usePreview(find: Found | null, side: number): Preview | null | undefined {
  const session = useSession();
  const isOpen = useMedium(find?.medium ?? null)?.storage === "open";
  const open = isOpen || (find !== null && !isOfTicket(find));
  const [preview, setPreview] = useState<Preview | null | undefined>(undefined);
  const key = find?.key;
  const drawable = find !== null && find.condition !== "remnant";
  const latest = useRef(find);
  latest.current = find;
  useEffect(() => {
    setPreview(undefined);
    const wanted = latest.current;
    if (!key || wanted?.key !== key || !drawable || !open) return;
    let gone = false;
    void session.looking.preview(wanted, side).then((shown) => {
      if (!gone) setPreview(shown);
    });
    return () => {
      gone = true;
      session.looking.leave(wanted, side);
    };
  }, [session, key, drawable, open, side]);
  return drawable && open ? preview : null;
}
