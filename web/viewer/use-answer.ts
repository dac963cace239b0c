import type { Looking } from "../session/looking.ts";
import { useSession } from "../session/use-session.ts";
import { useTold } from "../session/use-told.ts";

/** What is answered to a question about a find; undefined until then. `about`: what the question depends on: when it changes it is asked again. */
export function useAnswer<T>(ask: (looking: Looking) => Promise<T>, about: readonly unknown[]): T | undefined {
  const { looking } = useSession();
  return useTold(() => ask(looking), [looking, ...about]);
}
