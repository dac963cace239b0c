import { findKey } from "../../core/finds/find-key.ts";
import type { TalkView } from "../../core/stores/people/questions.ts";
import { useSession } from "../session/use-session.ts";
import { useTold } from "../session/use-told.ts";
import { nameOf } from "../shared/words.ts";
import type { PersonEntry } from "../worker/finds/people-desk.ts";

/** What conversations are kept by: an app's own mapping or the system's store by its name, or the database that was read as it looks. */
export const appOf = ({ store, medium, database }: Pick<PersonEntry, "store" | "medium" | "database">): string =>
  store === "proposed" && database !== null ? findKey(medium, database) : store || "export";

/** An app, what it is called, and how many conversations are its. */
export interface App {
  readonly key: string;
  readonly name: string;
  readonly talks: number;
}

/** The apps of some conversations, those with the most first. */
export function useApps(talks: readonly TalkView[] | null): readonly App[] {
  const session = useSession();
  const counts = new Map<string, number>();
  for (const talk of talks ?? []) counts.set(appOf(talk), (counts.get(appOf(talk)) ?? 0) + 1);
  const unknown = [...counts.keys()].filter((key) => key.includes(":")).join("\n");
  const names = useTold(async () => {
    const finds = await session.desks.index.findsOf(unknown.split("\n").filter(Boolean));
    return new Map(finds.map((find) => [find.key, nameOf(find)]));
  }, [session, unknown]);
  return [...counts]
    .map(([key, number]) => ({ key, name: NAMES[key] ?? names?.get(key) ?? key, talks: number }))
    .sort((a, b) => b.talks - a.talks);
}

/** The system's own, in words. */
const NAMES: Readonly<Record<string, string>> = { telephony: "text messages", export: "exports" };
