import type { AttachmentValues, FoundRecord, RecordState, RecordValues } from "../finds/record.ts";
import type { Gathered, StoreRow } from "./gathered.ts";

/** What people mean by rows: a record whose `rows` are those that it was made of. */
export interface Entry extends FoundRecord {
  readonly store: string;
  readonly rows: readonly string[];
  readonly values: RecordValues;
}

/** One kind of database that is read as people's data. */
export interface Store {
  readonly name: string;
  /** Entries of a database that has its tables; none of one that has not. */
  read(gathered: Gathered): Entry[];
}

const ORDER = { whole: 0, damaged: 1, remnant: 2 } as const;

/** An entry of some rows, the first of them its own. `state`: where it is another than its own row's. */
export function entryOf(
  store: string,
  kind: Entry["kind"],
  gathered: Gathered,
  rows: readonly StoreRow[],
  values: RecordValues,
  state?: RecordState,
  part = "",
): Entry {
  const [own] = rows;
  const { condition } = own.row;
  const skipped = SENT.has(kind) ? (gathered.tableOf(own)?.missingBefore(own) ?? 0) : 0;
  return {
    id: `${own.id}~${kind}${part}`,
    kind,
    state: state ?? own.state,
    condition,
    database: gathered.database,
    table: null,
    rowid: null,
    columns: {},
    values: known(values),
    store,
    rows: gathered.idsOf(rows),
    ...(skipped > 0 && { skipped }),
    evidence: own.evidence,
  };
}

/** What is numbered in the order in which it was sent. */
const SENT: ReadonlySet<string> = new Set(["message", "chat"]);

/** An entry that no row of its own tells of: a conversation of which only messages are left. */
export function madeEntry(
  store: string,
  kind: Entry["kind"],
  gathered: Gathered,
  key: string,
  state: RecordState,
  values: RecordValues,
): Entry {
  return {
    id: `${gathered.prefix}~${kind}~${key}`,
    kind,
    state,
    condition: "whole",
    database: gathered.database,
    table: null,
    rowid: null,
    columns: {},
    values: known(values),
    store,
    rows: [],
    evidence: [],
  };
}

/** Without what is not known. */
export function known<T extends object>(values: T): T {
  const kept = { ...values };
  for (const key of Object.keys(kept) as (keyof T)[]) if (kept[key] === undefined) delete kept[key];
  return kept;
}

/** An attachment that says something, without what is not known. */
export const attachment = (name?: string, type?: string, path?: string): AttachmentValues =>
  known({ name: name || undefined, type: type || undefined, path: path || undefined });

/**
 * Of erased copies of one thing (an older image of its page, a cell whose row id is lost) the best; what is there already is not told again as
 * erased. `alike`: what two copies of one thing have in common.
 */
export function onceEach<T extends Entry>(entries: readonly T[], alike: (entry: T) => string | null): T[] {
  const keys = entries.map(alike);
  const there = new Set<string>();
  const best = new Map<string, number>();
  for (const [at, key] of keys.entries()) {
    if (key === null) continue;
    if (entries[at].state !== "erased") there.add(key);
    else {
      const other = best.get(key);
      if (other === undefined || ORDER[entries[at].condition] < ORDER[entries[other].condition]) best.set(key, at);
    }
  }
  return entries.filter((entry, at) => {
    const key = keys[at];
    return key === null || entry.state !== "erased" || (best.get(key) === at && !there.has(key));
  });
}
