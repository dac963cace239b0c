import type { ContactChange } from "../finds/record.ts";
import type { Values } from "../sqlite/format/values.ts";
import type { RowEvidence } from "../sqlite/rows/row.ts";
import { type Gathered, isoOf, keyOf, numberOf, ROWID, type StoreRow, type StoreTable } from "./gathered.ts";
import { known } from "./store.ts";

/** What a row of a contact says, in a word or a line. Null: nothing that anybody sees. */
export type Saying = (values: Values) => { readonly field: ContactChange["field"]; readonly text: string } | null;

/** How a row stood at some time. */
interface Standing {
  readonly values: Values;
  /** The transaction in which it stood so for certain. Infinity: it does now. Null: nothing says when. */
  readonly from: number | null;
  /** One in which it may not have stood so any more. */
  readonly until: number | null;
}

/** Of one row: how it stands, and how it stood, newest first. `isThere`: it stands so now. */
interface Line {
  readonly isThere: boolean;
  readonly standings: readonly Standing[];
}

/** When a contact was changed, by its own stamp (ContactsContract.ContactsColumns.CONTACT_LAST_UPDATED_TIMESTAMP), as far as images of its row are left. */
interface Stamp {
  readonly time: number;
  readonly from: number | null;
}

/** Changes that are told of one contact. */
const MOST_CHANGES = 200;

/**
 * What contacts said before: earlier contents of their rows that log, journal and free pages still hold, and rows that were taken out. These carry
 * no clock. A content that stood in an image of its page was changed after every stamp that stood in one no newer, and not after any stamp
 * that stood in one no older than the page's next; without such images, before the stamp that the contact bears now.
 */
export class ContactHistory {
  readonly #contacts: StoreTable | null;
  readonly #gone: StoreTable | null;

  constructor(gathered: Gathered) {
    this.#contacts = gathered.table("contacts", "contact_last_updated_timestamp");
    this.#gone = gathered.table("deleted_contacts", "contact_id", "contact_deleted_timestamp");
  }

  /** When the address book was told that a contact is gone (ContactsContract.DeletedContacts). */
  erasedAt(contact: string | null): string | undefined {
    const row = contact === null ? undefined : this.#gone?.first("contact_id", contact);
    return row && isoOf(this.#gone?.number(row, "contact_deleted_timestamp"));
  }

  changedAt(contact: string | null): string | undefined {
    const now = this.#stamps(contact).find(({ from }) => from === NOW.from);
    return now && isoOf(now.time);
  }

  /**
   * What a contact said before. `rows`: of one table, all that are or were the contact's; numbers of rows are not given twice there (AUTOINCREMENT).
   * `saying`: what of a row is told.
   */
  changes(contact: string | null, rows: readonly StoreRow[], saying: Saying): ContactChange[] {
    // Most contacts never changed.
    if (rows.every((row) => row.isThere && row.row.versions.length === 0)) return [];
    const stamps = this.#stamps(contact);
    const changes: { change: ContactChange; from: number }[] = [];
    const lines = linesOf(rows);
    const isSaid = new Set(lines.flatMap(({ isThere, standings }) => (isThere ? [said(saying, standings[0])] : [])));
    for (const { isThere, standings } of lines) {
      for (const [index, standing] of standings.entries()) {
        const was = saying(standing.values);
        const next = standings[index - 1];
        const became = next && saying(next.values);
        if (!was || (index === 0 && isThere) || was.text === became?.text) continue;
        // A number that was taken out and stands elsewhere on the card was moved, not lost.
        if (!became && isSaid.has(said(saying, standing))) continue;
        const change = known({ field: was.field, was: was.text, became: became?.text, ...dated(stamps, standing) });
        changes.push({ change, from: standing.from ?? Number.NEGATIVE_INFINITY });
      }
    }
    const told = new Set<string>();
    return changes
      .sort((a, b) => b.from - a.from)
      .map(({ change }) => change)
      .filter(({ field, was, became }) => {
        const key = JSON.stringify([field, was, became]);
        return !told.has(key) && told.add(key);
      })
      .slice(0, MOST_CHANGES);
  }

  #stamps(contact: string | null): Stamp[] {
    const table = this.#contacts;
    if (!table || contact === null) return [];
    const column = table.column("contact_last_updated_timestamp");
    return linesOf(table.find(ROWID, contact)).flatMap(({ standings }) =>
      standings.flatMap(({ values, from }) => {
        const time = numberOf(values[column]);
        return time === undefined || isoOf(time) === undefined ? [] : [{ time, from }];
      }),
    );
  }
}

const NOW = { from: Number.POSITIVE_INFINITY, until: null } as const;
const NEVER = { from: null, until: null } as const;

const said = (saying: Saying, { values }: Standing): string => JSON.stringify(saying(values));

/** Rows of one number are one row at several times; one whose number is lost stands for itself. */
function linesOf(rows: readonly StoreRow[]): Line[] {
  const lines = new Map<string, Standing[]>();
  const there = new Set<string>();
  for (const [index, row] of rows.entries()) {
    const key = keyOf(row.row.rowid ?? undefined) ?? `nameless ${index}`;
    const line = lines.get(key) ?? [];
    if (row.isThere) there.add(key);
    line.push({ values: row.values, ...(row.isThere ? NOW : stoodIn(row.row.evidence)) });
    for (const { values, evidence } of row.row.versions) line.push({ values, ...stoodIn([evidence]) });
    lines.set(key, line);
  }
  return Array.from(lines, ([key, standings]) => ({ isThere: there.has(key), standings: standings.sort(byAge) }));
}

/** The newest image that it stood in. */
function stoodIn(evidence: readonly RowEvidence[]): Pick<Standing, "from" | "until"> {
  const images = evidence.flatMap(({ stood }) => stood ?? []).sort((a, b) => b.from - a.from);
  return images[0] ?? NEVER;
}

/** Newest first; what nothing dates stays where it was told, which is newest first too. */
const byAge = (a: Standing, b: Standing): number => (a.from === null || b.from === null || a.from === b.from ? 0 : b.from - a.from);

/** Between which moments a content that stood so was changed. */
function dated(stamps: readonly Stamp[], { from, until }: Standing): Pick<ContactChange, "after" | "before"> {
  const end = until ?? Number.POSITIVE_INFINITY;
  const later = stamps.flatMap((stamp) => (stamp.from !== null && stamp.from >= end ? [stamp.time] : []));
  const earlier = stamps.flatMap((stamp) => (from !== null && stamp.from !== null && stamp.from <= from ? [stamp.time] : []));
  const before = later.length > 0 ? Math.min(...later) : undefined;
  const after = earlier.length > 0 ? Math.max(...earlier) : undefined;
  // Where the two contradict each other nothing is dated by the first.
  return known({
    before: isoOf(before),
    after: after !== undefined && (before === undefined || after < before) ? isoOf(after) : undefined,
  });
}
