import { proxy } from "comlink";
import { useEffect, useState } from "react";
import { partsOfKey } from "../../core/finds/find-key.ts";
import type { Found } from "../worker/finds/protocol.ts";
import { useMedium, useSession } from "./use-session.ts";

/** A find whose bytes are read before it can be looked at: so far, with what it is then, or why it cannot be. */
export type Opening<T> =
  | { readonly state: "reading"; readonly part: number }
  | { readonly state: "open"; readonly answer: T }
  | { readonly state: "failed"; readonly because: string };

type Outcome<T> = { readonly ok: true; readonly answer: T } | { readonly ok: false; readonly because: string };

/**
 * Opens a find of the ticket, and again when its medium was opened anew.
 * @param open reads it, and tells how far it is, 0 to 1
 * @returns the find; how its opening goes; and what puts another answer in the place of the one that is there
 */
export function useOpened<T>(id: string, open: (tell: (part: number) => void) => Promise<Outcome<T>>) {
  const session = useSession();
  const storage = useMedium(partsOfKey(id).medium)?.storage ?? "opening";
  const [find, setFind] = useState<Found | null>(null);
  const [opening, setOpening] = useState<Opening<T>>({ state: "reading", part: 0 });
  useEffect(() => void session.desks.index.find(id).then(setFind), [session, id]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: how it is opened is a new function each time; what it opens is told by its id
  useEffect(() => {
    if (storage === "opening") return;
    let left = false;
    setOpening({ state: "reading", part: 0 });
    const tell = proxy((part: number) => {
      if (!left) setOpening({ state: "reading", part });
    });
    void open(tell).then((outcome) => {
      if (!left) setOpening(outcome.ok ? { state: "open", answer: outcome.answer } : { state: "failed", because: outcome.because });
    });
    return () => {
      left = true;
    };
  }, [session, id, storage]);
  return { find, opening, setAnswer: (answer: T) => setOpening({ state: "open", answer }) };
}
