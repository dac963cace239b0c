import { wantWords } from "../../core/triage/intake.ts";
import { useJob, useSession } from "./use-session.ts";
import { useTold } from "./use-told.ts";

/** Which wants of the ticket something answers, in words. `key`: a find's or an entry's; null: nothing is asked. */
export function useWantsOf(key: string | null): readonly string[] {
  const session = useSession();
  const { wants } = useJob().intake;
  const told = useTold(async () => {
    const [numbers = []] = key === null || wants.length === 0 ? [] : await session.desks.index.wantsOf([key], [...wants]);
    return { key, words: numbers.map((number) => wantWords(wants[number])) };
  }, [session, key, JSON.stringify(wants)]);
  // What another one answered is not this one's.
  return told && told.key === key ? told.words : [];
}

/** How many things of the tray answer each want. Null: not counted yet. */
export function useTrayByWant(keys: ReadonlySet<string>): readonly number[] | null {
  const session = useSession();
  const { wants } = useJob().intake;
  const counts = useTold(async () => {
    const answered = await session.desks.index.wantsOf([...keys], [...wants]);
    return wants.map((_, number) => answered.filter((numbers) => numbers.includes(number)).length);
  }, [session, keys, JSON.stringify(wants)]);
  return counts?.length === wants.length ? counts : null;
}
