import { Contents } from "../archives/stream.ts";
import { memorySource } from "../bytes/memory-source.ts";
import { isSmsBackup } from "../exports/formats.ts";
import { DATABASE, DATABASE_JOURNAL, DATABASE_LOG, STRAY_FORMAT } from "../filetypes/database-formats.ts";
import { formatNamed } from "../filetypes/table.ts";
import { applyPatch, type Find, type Patch } from "../finds/find.ts";
import type { DatabaseSources } from "../sqlite/files/database-files.ts";

const WAL = "-wal";
const JOURNAL = "-journal";
/** Is it a database by its format, found by list or by content? */
export const isDatabase = ({ format }: Find): boolean => format === DATABASE;

/** Can rows or entries be read from a find: a database, its pages or its log, or an export of people's data? */
export const hasRecords = (find: Find): boolean =>
  find.extents.length > 0 && (formatNamed(find.format).holds === "rows" || isExportFind(find));

/** Is it an export of people's data that is read as entries? */
const isExportFind = ({ name, format }: Find): boolean => formatNamed(format).holds === "entries" || isSmsBackup(name);

/** A database with what lies beside it. */
export interface DatabaseSet {
  /** The find that its rows are told of: the database, or its log where that is all that is left. */
  readonly find: Find;
  readonly wal: Find | null;
  readonly journal: Find | null;
}

const baseOf = (path: string, ending: string): string | null => (path.endsWith(ending) ? path.slice(0, -ending.length) : null);

/** Of all finds those that records can be read from, kept while a scan goes on: databases, what lies beside them, exports, stray pages. */
export class DatabaseFinds {
  readonly #finds = new Map<string, Find>();

  note(find: Find): void {
    if (hasRecords(find) || find.format === DATABASE_JOURNAL) this.#finds.set(find.id, find);
  }

  /** What the system's own providers told, in a copy of ours. */
  readonly #asked = new Map<string, Find>();
  noteAsked(find: Find): void {
    if (isExportFind(find) && find.extents.length > 0) this.#asked.set(find.id, find);
  }
  asked(): Find[] {
    return [...this.#asked.values()].filter(this.#isDue);
  }

  patch(patch: Patch): void {
    const find = this.#finds.get(patch.id);
    if (find) this.#finds.set(patch.id, applyPatch(find, patch));
  }

  /** Those that are known by now are read already: what is noted from here on is the rest. */
  #read: ReadonlySet<string> = new Set();
  settle(): void {
    this.#read = new Set([...this.#finds.keys(), ...this.#asked.keys()]);
  }
  #isDue = ({ id }: Find): boolean => !this.#read.has(id);

  /** Databases, each with the log and journal of its name: of its own state first. A log without a database stands for itself. */
  databases(): DatabaseSet[] {
    const beside = new Map<string, Find[]>();
    for (const find of this.#finds.values())
      for (const ending of [WAL, JOURNAL]) {
        const base = find.path === null ? null : baseOf(find.path, ending);
        if (base === null) continue;
        const key = `${find.volume}${ending}${base}`;
        beside.set(key, [...(beside.get(key) ?? []), find]);
      }
    const used = new Set<string>();
    const take = (find: Find, ending: string): Find | null => {
      const some = find.path === null ? undefined : beside.get(`${find.volume}${ending}${find.path}`);
      const chosen = some?.find(({ state }) => state === find.state) ?? some?.[0] ?? null;
      if (chosen) used.add(chosen.id);
      return chosen;
    };
    const sets: DatabaseSet[] = [];
    for (const find of this.#finds.values()) if (isDatabase(find)) sets.push({ find, wal: take(find, WAL), journal: take(find, JOURNAL) });
    for (const find of this.#finds.values())
      if (find.format === DATABASE_LOG && !used.has(find.id)) sets.push({ find, wal: find, journal: null });
    return sets.filter(({ find }) => this.#isDue(find));
  }

  exports(): Find[] {
    return [...this.#finds.values()].filter((find) => isExportFind(find) && this.#isDue(find));
  }

  strays(): Find[] {
    return [...this.#finds.values()].filter((find) => find.format === STRAY_FORMAT && this.#isDue(find));
  }
}

/** The bytes of a set. Null: it is packed, and too large to be read from anywhere. */
export function sourcesOf({ find, wal, journal }: DatabaseSet, contents: Contents): DatabaseSources | null {
  const of = (one: Find) => contents.of(one, one.name ?? one.id);
  if ([find, wal, journal].some((one) => one && !Contents.isAtHand(one))) return null;
  return {
    main: find.format === DATABASE_LOG ? memorySource(new Uint8Array(0), find.name ?? "") : of(find),
    wal: wal ? of(wal) : undefined,
    journal: journal ? of(journal) : undefined,
  };
}
