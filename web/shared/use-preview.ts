import { useEffect, useState } from "react";
import type { Find } from "../../core/finds/find.ts";
import { useSession, useSessionState } from "../session/use-session.ts";

/** The address of a find's picture: undefined while it is drawn, null where none can be. */
export function usePreview(find: Find | null, side: number): string | null | undefined {
  const session = useSession();
  const open = useSessionState((state) => state.storage === "open");
  const [address, setAddress] = useState<string | null | undefined>(undefined);
  const id = find?.id;
  const drawable = find !== null && find.kind === "photo" && find.condition !== "remnant";
  useEffect(() => {
    setAddress(undefined);
    if (!id || !drawable || !open) return;
    let gone = false;
    void session.preview(id, side).then((url) => {
      if (!gone) setAddress(url);
    });
    return () => {
      gone = true;
    };
  }, [session, id, drawable, open, side]);
  return drawable && open ? address : null;
}
