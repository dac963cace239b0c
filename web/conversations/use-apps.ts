import { appOf } from "../../core/stores/people/app.ts";
import type { TalkView } from "../../core/stores/people/questions.ts";
import { useSession } from "../session/use-session.ts";
import { useTold } from "../session/use-told.ts";
import { nameOf } from "../shared/words.ts";

/** An app, what it is called, and how many conversations are its. */
export interface App {
  readonly key: string;
  readonly name: string;
  readonly talks: number;
}

/** The apps of some conversations, those with the most first. */
export function useApps(talks: readonly TalkView[] | null): readonly App[] {
  const counts = new Map<string, number>();
  for (const talk of talks ?? []) counts.set(appOf(talk), (counts.get(appOf(talk)) ?? 0) + 1);
  const called = useAppNames([...counts.keys()]);
  return [...counts].map(([key, talks]) => ({ key, name: called(key), talks })).sort((a, b) => b.talks - a.talks);
}

/** What apps are called, by what `appOf` tells. */
export function useAppNames(keys: readonly string[]): (key: string) => string {
  const session = useSession();
  const unknown = keys.filter((key) => key.includes(":")).join("\n");
  const names = useTold(async () => {
    const finds = await session.desks.index.findsOf(unknown.split("\n").filter(Boolean));
    return new Map(finds.map((find) => [find.key, nameOf(find)]));
  }, [session, unknown]);
  return (key) => NAMES[key] ?? names?.get(key) ?? key;
}

/** The system's own, in words. */
const NAMES: Readonly<Record<string, string>> = { telephony: "text messages", export: "exports" };
