import { useEffect, useState } from "react";
import type { OpenContent } from "../session/looking.ts";
import { useSession } from "../session/use-session.ts";
import type { Found } from "../worker/finds/protocol.ts";

/** A find's content as an address that elements of the page read from, as long as it is shown. Undefined: not yet. `wanted`: false asks for nothing. */
export function useContent(find: Found, wanted = true): OpenContent | undefined {
  const session = useSession();
  const [content, setContent] = useState<OpenContent | undefined>(undefined);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the same find goes by the same key
  useEffect(() => {
    setContent(undefined);
    if (!wanted) return;
    let gone = false;
    let release = () => {};
    void session.looking.open(find).then((opened) => {
      if ("release" in opened) release = opened.release;
      if (gone) release();
      else setContent(opened);
    });
    return () => {
      gone = true;
      release();
    };
  }, [session, find.key, wanted]);
  return content;
}
