import type { Gathered } from "./gathered.ts";
import { fingerprintOf } from "./mapping/fingerprint.ts";
import type { Mapping } from "./mapping/mapping.ts";
import { proposeAll, SURE } from "./mapping/propose.ts";
import { readAll } from "./mapping/read-all.ts";
import { fits } from "./mapping/read-mapped.ts";
import { surveyOf } from "./mapping/survey.ts";
import type { Entry } from "./store.ts";
import { STORES } from "./table.ts";

/** A database that looks like a messenger, but not surely enough to be read. */
export interface Proposal {
  readonly database: string | null;
  readonly table: string;
  readonly why: readonly string[];
  /** 0 … 1 */
  readonly sureness: number;
}

/** What is known of messengers before a database is looked at. */
export interface Known {
  /** In the order in which they are tried. */
  readonly mappings: readonly Mapping[];
  /** Fingerprints of databases that somebody said are no messengers. */
  readonly refused?: ReadonlySet<string>;
}

export interface ToldByStores {
  readonly entries: readonly Entry[];
  readonly proposal: Proposal | null;
  /** How it was read, where no store of the system's own providers did. */
  readonly mapping: Mapping | null;
}

/** From this sureness on a proposal is offered. */
const OFFERED = 0.4;

/** What the system's own providers keep, as far as their tables are there. */
export const readProviders = (gathered: Gathered): Entry[] => STORES.flatMap((store) => store.read(gathered));

/** What people mean by the rows of one database: by the provider whose tables it has, or else by a mapping of a messenger. */
export function readStores(gathered: Gathered, { mappings, refused }: Known): ToldByStores {
  const entries = readProviders(gathered);
  if (entries.length > 0) return { entries, proposal: null, mapping: null };
  if (refused && refused.size > 0 && refused.has(fingerprintOf(gathered))) return { entries: [], proposal: null, mapping: null };
  const known = mappings.find((mapping) => fits(gathered, mapping));
  if (known) return { entries: readAll(gathered, known, known.name), proposal: null, mapping: known };
  const proposed = proposeAll(surveyOf(gathered));
  if (!proposed || proposed.mapping.sureness < OFFERED) return { entries: [], proposal: null, mapping: null };
  const { mapping, table } = proposed;
  if (mapping.sureness >= SURE) return { entries: readAll(gathered, mapping, "proposed"), proposal: null, mapping };
  const why = mapping.because.map(({ part, why: because }) => `${part}: ${because}`);
  return { entries: [], proposal: { database: gathered.database, table, why, sureness: mapping.sureness }, mapping };
}
