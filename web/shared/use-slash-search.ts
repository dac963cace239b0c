import { type RefObject, useRef } from "react";
import { useHotkeys } from "react-hotkeys-hook";

/** The search field of a screen: `/` goes there from anywhere but another field; some keyboards have it on another key with Shift. */
export function useSlashSearch(): RefObject<HTMLInputElement | null> {
  const search = useRef<HTMLInputElement>(null);
  useHotkeys(["/", "shift+/"], () => search.current?.focus(), {
    preventDefault: true,
    useKey: true,
    // What is written into is left alone; what can only be chosen is not.
    enableOnFormTags: ["option", "radio", "slider", "select"],
  });
  return search;
}
