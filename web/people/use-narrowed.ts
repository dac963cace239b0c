import { useEffect, useState } from "react";
import { useLocation } from "react-router";
import type { DayRange } from "../../core/stores/people/questions.ts";
import { Want, wantWords } from "../../core/triage/intake.ts";
import { peopleWanted } from "../../core/wants/questions.ts";
import { useSession, useSessionState } from "../session/use-session.ts";

/** What a room of people's data is narrowed to: words that are typed, and a want whose chip was clicked. */
export interface Narrowed {
  readonly words: string;
  readonly onWords: (words: string) => void;
  readonly days: DayRange;
  readonly onDays: (days: DayRange) => void;
  readonly who: string;
  /** The want in words, as long as its days and its person hold; null: there is none. */
  readonly want: string | null;
  readonly onShowAll: () => void;
}

/** A want comes with the way to the room, its words as if they had been typed. */
export function useNarrowed(): Narrowed {
  const { state, key } = useLocation();
  const words = useSessionState(({ query }) => query.words);
  const [want, setWant] = useState<Want | null>(null);
  /** Days that were brushed over, in place of the want's. */
  const [brushed, setBrushed] = useState<DayRange | undefined>(undefined);
  const session = useSession();
  // One search over everything: what is typed in one room is looked for in all of them, and on the wall.
  const onWords = (next: string) => void session.ask({ words: next });
  // Whoever came here by themselves is not taken to the first want later.
  useEffect(() => void session.takeFirstWant(), [session]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: each click on a chip is a way of its own, the same chip's too.
  useEffect(() => {
    const given = Want.safeParse((state as { want?: unknown } | null)?.want).data ?? null;
    setWant(given);
    setBrushed(undefined);
    if (!given) return;
    const wanted = peopleWanted(given)?.words ?? "";
    onWords(wanted);
    // The words of a want are of this room: elsewhere nothing was typed.
    return () => {
      if (wanted && session.store.getState().query.words === wanted) onWords("");
    };
  }, [key]);
  const asked = want && peopleWanted(want);
  const holds = asked && ((asked.days !== null && brushed === undefined) || asked.who !== "");
  // Days that were brushed over stand on the axis: the want's own hold no more.
  const left = want && { ...want, words: "", ...(brushed !== undefined && { from: "", to: "" }) };
  return {
    words,
    onWords,
    days: brushed === undefined ? (asked?.days ?? null) : brushed,
    onDays: setBrushed,
    who: asked?.who ?? "",
    want: left && holds ? wantWords(left) : null,
    onShowAll: () => {
      setWant(null);
      setBrushed(undefined);
      onWords("");
    },
  };
}
