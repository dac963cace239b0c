import type { MessageValues } from "../finds/record.ts";
import type { Gathered } from "./gathered.ts";
import { fingerprintOf } from "./mapping/fingerprint.ts";
import type { Mapping } from "./mapping/mapping.ts";
import { type Proposed, proposeAll } from "./mapping/propose.ts";
import { fits, readMapped } from "./mapping/read-mapped.ts";
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

/** From this sureness on a proposal is used at once … */
const SURE = 0.8;
/** … and from this on it is offered. */
const OFFERED = 0.4;

/** What people mean by the rows of one database: by the provider whose tables it has, or else by a mapping of a messenger. */
export function readStores(gathered: Gathered, { mappings, refused }: Known): ToldByStores {
  const entries = STORES.flatMap((store) => store.read(gathered));
  if (entries.length > 0) return { entries, proposal: null, mapping: null };
  if (refused && refused.size > 0 && refused.has(fingerprintOf(gathered))) return { entries: [], proposal: null, mapping: null };
  const known = mappings.find((mapping) => fits(gathered, mapping));
  if (known) return { entries: readMapped(gathered, known, known.name), proposal: null, mapping: known };
  const [proposed, ...further] = proposeAll(surveyOf(gathered), SURE);
  if (!proposed || proposed.mapping.sureness < OFFERED) return { entries: [], proposal: null, mapping: null };
  const { mapping, table } = proposed;
  if (mapping.sureness >= SURE) {
    const more = further.map((one) => ofOwnTalks(readMapped(gathered, one.mapping, "proposed"), one, proposed));
    return { entries: onceById([...readMapped(gathered, mapping, "proposed"), ...more.flat()]), proposal: null, mapping };
  }
  const why = mapping.because.map(({ part, why: because }) => `${part}: ${because}`);
  return { entries: [], proposal: { database: gathered.database, table, why, sureness: mapping.sureness }, mapping };
}

/** Numbers of conversations of another table are its own, where that is of another shape: older messages in a table of the same shape are of the same ones. */
function ofOwnTalks(entries: readonly Entry[], { table, messages }: Proposed, first: Proposed): readonly Entry[] {
  const shapeOf = (one: Proposed["messages"]) => one.source.tables[0].table.table.columns.map(({ name }) => name).join();
  if (shapeOf(messages) === shapeOf(first.messages)) return entries;
  const own = (id: string) => `${id}~${table}`;
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
