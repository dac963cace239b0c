import { useEffect, useState } from "react";
import { wantWords } from "../../core/triage/intake.ts";
import { useJob, useSession } from "./use-session.ts";

/** Which wants of the ticket something answers, in words. `key`: a find's or an entry's; null: nothing is asked. */
export function useWantsOf(key: string | null): readonly string[] {
  const session = useSession();
  const { wants } = useJob().intake;
  const [told, setTold] = useState<{ readonly key: string; readonly words: readonly string[] } | null>(null);
  const asked = JSON.stringify(wants);
  // biome-ignore lint/correctness/useExhaustiveDependencies: wants are asked for by what they say.
  useEffect(() => {
    if (key === null || wants.length === 0) return setTold(null);
    let left = false;
    void session.desks.index.wantsOf([key], [...wants]).then(([numbers]) => {
      if (!left) setTold({ key, words: numbers.map((number) => wantWords(wants[number])) });
    });
    return () => {
      left = true;
    };
  }, [session, key, asked]);
  return told !== null && told.key === key ? told.words : [];
}

/** How many things of the tray answer each want. Null: not counted yet. */
export function useTrayByWant(keys: ReadonlySet<string>): readonly number[] | null {
  const session = useSession();
  const { wants } = useJob().intake;
  const [counts, setCounts] = useState<readonly number[] | null>(null);
  const asked = JSON.stringify(wants);
  // biome-ignore lint/correctness/useExhaustiveDependencies: wants are asked for by what they say.
  useEffect(() => {
    let left = false;
    void session.desks.index.wantsOf([...keys], [...wants]).then((answered) => {
      if (!left) setCounts(wants.map((_, number) => answered.filter((numbers) => numbers.includes(number)).length));
    });
    return () => {
      left = true;
    };
  }, [session, keys, asked]);
  return counts?.length === wants.length ? counts : null;
}
