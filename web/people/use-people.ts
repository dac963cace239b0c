import type { Remote } from "comlink";
import { useEffect, useState } from "react";
import { useSession, useSessionState } from "../session/use-session.ts";
import type { PeopleDesk, PersonEntry } from "../worker/finds/people-desk.ts";

/** What the worker answers to a question about people; asked again whenever something came. Null: not yet. */
export function usePeople<T>(ask: (desk: Remote<PeopleDesk>) => Promise<T>, key: string): T | null {
  const session = useSession();
  const generation = useSessionState(({ people }) => people.generation);
  const [answer, setAnswer] = useState<T | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key says what the question depends on.
  useEffect(() => {
    let gone = false;
    void session.desks.people.then(ask).then((told) => {
      if (!gone) setAnswer(told);
    });
    return () => {
      gone = true;
    };
  }, [session, generation, key]);
  return answer;
}

/** Entries are asked for in blocks of this many, so that scrolling line by line does not ask for each line. */
const BLOCK = 60;

/** The entries of a list that are in sight, by their place in it. Old ones stay shown until the new ones come. */
export function useEntries(
  window: (desk: Remote<PeopleDesk>, from: number, to: number) => Promise<PersonEntry[]>,
  from: number,
  to: number,
  key: string,
): ReadonlyMap<number, PersonEntry> {
  const first = Math.floor(from / BLOCK) * BLOCK;
  const end = Math.ceil((to + 1) / BLOCK) * BLOCK;
  const told = usePeople(async (desk) => ({ first, key, entries: await window(desk, first, end) }), `${key} ${first} ${end}`);
  if (!told || told.key !== key) return EMPTY;
  return new Map(told.entries.map((entry, index) => [told.first + index, entry]));
}
const EMPTY: ReadonlyMap<number, PersonEntry> = new Map();
