import type { Mapping } from "../../core/stores/mapping/mapping.ts";
import { database } from "./database.ts";
import { KeptMapping } from "./kept-mapping.ts";

/** What a scan is to know of messengers: mappings, the newest first, and which databases are none. One that cannot be understood is passed over. */
export async function knownMappings(): Promise<{ mappings: Mapping[]; refused: Set<string> }> {
  const kept = (await database.mappings.toArray()).flatMap((one) => KeptMapping.safeParse(one).data ?? []);
  kept.sort((a, b) => b.keptAt - a.keptAt);
  return {
    mappings: kept.flatMap(({ mapping }) => mapping ?? []),
    refused: new Set(kept.flatMap(({ fingerprint, mapping }) => (mapping ? [] : [fingerprint]))),
  };
}

/** Keeps what a database means, in place of what was kept of the same app's before. To be called within a transaction on `mappings`. */
export async function keepMapping(kept: Omit<KeptMapping, "id">): Promise<void> {
  const app = kept.mapping?.app ?? null;
  const before = await database.mappings.where("fingerprint").equals(kept.fingerprint).toArray();
  // What is no messenger is none, whichever app has it; and two apps of one shape may mean different things.
  for (const one of before)
    if (kept.mapping === null || one.mapping === null || (one.mapping.app ?? null) === app) await database.mappings.delete(one.id ?? 0);
  await database.mappings.add(kept);
}
