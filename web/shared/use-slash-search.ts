import { type RefObject, useEffect, useRef } from "react";

/** The search field of a screen: `/` goes there from anywhere but another field. */
export function useSlashSearch(): RefObject<HTMLInputElement | null> {
  const search = useRef<HTMLInputElement>(null);
  useEffect(() => {
    const focus = (event: KeyboardEvent) => {
      if (event.key !== "/" || event.target instanceof HTMLInputElement) return;
      event.preventDefault();
      search.current?.focus();
    };
    addEventListener("keydown", focus);
    return () => removeEventListener("keydown", focus);
  }, []);
  return search;
}
