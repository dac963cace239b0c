import { useEffect, useState } from "react";
import type { Find } from "../../core/finds/find.ts";
import type { Preview } from "../session/session.ts";
import { useSession, useSessionState } from "../session/use-session.ts";

/** What is shown of a find: undefined while it is drawn, null where there is nothing to be shown. */
export function usePreview(find: Find | null, side: number): Preview | null | undefined {
  const session = useSession();
  const open = useSessionState((state) => state.storage === "open");
  const [preview, setPreview] = useState<Preview | null | undefined>(undefined);
  const id = find?.id;
  const drawable = find !== null && find.kind === "photo" && find.condition !== "remnant";
  useEffect(() => {
    setPreview(undefined);
    if (!id || !drawable || !open) return;
    let gone = false;
    void session.preview(id, side).then((shown) => {
      if (!gone) setPreview(shown);
    });
    return () => {
      gone = true;
    };
  }, [session, id, drawable, open, side]);
  return drawable && open ? preview : null;
}
