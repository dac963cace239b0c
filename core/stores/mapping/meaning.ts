import type { Gathered } from "../gathered.ts";
import type { Entry } from "../store.ts";
import { type ByHand, Said } from "./by-hand.ts";
import { type ColumnView, columnsOf } from "./explain.ts";
import { type Holds, holdsOf } from "./holds.ts";
import type { Mapping } from "./mapping.ts";
import { likeliestIn, type Proposed, proposeAll } from "./propose.ts";
import { readAll } from "./read-all.ts";
import { type Surveyed, surveyOf } from "./survey.ts";

/** How a database reads as messages, for a person to judge and put right. */
export interface Meaning {
  /** Tables that may hold the messages, those with most rows first, and the one that does. */
  readonly tables: readonly { readonly name: string; readonly rows: number }[];
  readonly table: string | null;
  readonly columns: readonly ColumnView[];
  /** Null: it does not read as messages so. */
  readonly mapping: Mapping | null;
  /** What is put together with the messages: tables of conversations, people, members, attachments, further messages. */
  readonly joined: readonly {
    readonly as: "conversations" | "people" | "members" | "texts" | "attachments" | "more messages";
    readonly table: string;
  }[];
  readonly holds: Holds | null;
}

/** A table of fewer rows is not offered as that of the messages. */
const LEAST_ROWS = 3;

/** One database that somebody looks at to say what it means: its tables are looked at once, and read as often as something is said. */
export class MeaningReader {
  readonly #gathered: Gathered;
  readonly #surveyed: readonly Surveyed[];
  readonly #likeliest: readonly Proposed[];

  constructor(gathered: Gathered) {
    this.#gathered = gathered;
    this.#surveyed = surveyOf(gathered);
    this.#likeliest = likeliestIn(this.#surveyed);
  }

  /** What it means when this was said of it. `entries`: its messages and conversations as they then read. */
  read(byHand: ByHand): { meaning: Meaning; entries: readonly Entry[] } {
    const proposed = proposeAll(this.#surveyed, byHand, this.#likeliest);
    const entries = proposed ? readAll(this.#gathered, proposed.mapping, proposed.mapping.name) : [];
    const table = proposed?.messages ?? this.#named(byHand.table);
    return {
      entries,
      meaning: {
        tables: this.#tables(),
        table: table?.name ?? null,
        columns: table ? saidOf(columnsOf(table, proposed?.mapping ?? null), table, byHand) : [],
        mapping: proposed?.mapping ?? null,
        joined: proposed ? joinedIn(proposed.mapping) : [],
        holds: proposed ? holdsOf(entries) : null,
      },
    };
  }

  #tables(): Meaning["tables"] {
    return this.#surveyed
      .map(({ name, rows }) => ({ name, rows }))
      .filter(({ rows }) => rows >= LEAST_ROWS)
      .sort((a, b) => b.rows - a.rows);
  }

  /** The table that was named, or where nothing reads as messages the largest. */
  #named(name: string | null): Surveyed | null {
    const wanted = name ?? this.#tables()[0]?.name;
    return this.#surveyed.find((one) => one.name === wanted) ?? null;
  }
}

/** Where nothing could be read with what was said, what was said still shows. */
function saidOf(columns: readonly ColumnView[], table: Surveyed, byHand: ByHand): ColumnView[] {
  const said = new Said(byHand);
  const roles = new Map(table.profiles.map(({ column }, index) => [index, said.roleOf(column)]));
  return columns.map((column, index) => ({ ...column, role: roles.get(index) ?? column.role }));
}

function joinedIn({ talk, people, members, fits, attachments, more = [] }: Mapping): Meaning["joined"] {
  const body = fits.tables.find(({ as }) => as === "body");
  const files = attachments.find(({ table }) => table !== undefined)?.table;
  return [
    ...(talk ? [{ as: "conversations" as const, table: talk.table }] : []),
    ...(people ? [{ as: "people" as const, table: people.table }] : []),
    ...(members ? [{ as: "members" as const, table: members.table }] : []),
    ...(body && "name" in body ? [{ as: "texts" as const, table: body.name }] : []),
    ...(files ? [{ as: "attachments" as const, table: files }] : []),
    ...more.map(({ fits: { tables } }) => {
      const [table] = tables;
      return { as: "more messages" as const, table: "pattern" in table ? table.pattern : table.name };
    }),
  ];
}
