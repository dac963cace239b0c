import type { MessageValues } from "../../finds/record.ts";
import type { Gathered } from "../gathered.ts";
import type { Entry } from "../store.ts";
import type { Mapping } from "./mapping.ts";
import { fits, readMapped } from "./read-mapped.ts";

/** The conversations and messages of all tables that a mapping reads. `store`: what is said of where they are from. */
export function readAll(gathered: Gathered, mapping: Mapping, store: string): Entry[] {
  const more = (mapping.more ?? [])
    .filter((one) => fits(gathered, one))
    .map((one) => ofOwnTalks(readMapped(gathered, one, store), one, mapping));
  return onceById([...readMapped(gathered, mapping, store), ...more.flat()]);
}

/** Numbers of conversations of another table are its own, where that is of another shape: older messages in a table of the same shape are of the same ones. */
function ofOwnTalks(entries: readonly Entry[], { fits }: Mapping, first: Mapping): readonly Entry[] {
  const [table] = fits.tables;
  if (fits.columns.m?.join() === first.fits.columns.m?.join()) return entries;
  const own = (id: string) => `${id}~${"pattern" in table ? table.pattern : table.name}`;
  return entries.map((entry) => {
    if (entry.kind === "conversation") return { ...entry, id: own(entry.id) };
    const { conversation } = entry.values as MessageValues;
    return conversation === undefined ? entry : { ...entry, values: { ...entry.values, conversation: own(conversation) } };
  });
}

/** A conversation of which two tables hold messages is one. */
function onceById(entries: readonly Entry[]): Entry[] {
  const seen = new Set<string>();
  return entries.filter(({ id }) => !seen.has(id) && seen.add(id));
}
