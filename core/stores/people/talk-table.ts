import type { ConversationValues, FoundRecord, MessageValues } from "../../finds/record.ts";
import { addressKey } from "../numbers.ts";
import type { EntryColumns } from "./entry-columns.ts";

/** A conversation and the rows of its messages. */
export interface Talk {
  readonly key: string;
  /** The row that tells of it, or where none does the first message's. */
  readonly row: number;
  /** Does an entry of its own tell of it? */
  readonly isTold: boolean;
  readonly values: ConversationValues;
  readonly store: string;
  readonly database: string | null;
  readonly medium: number;
  readonly rows: number[];
  erased: number;
  sorted: boolean;
}

/** Which messages are of which conversation, whichever of them is told of first. */
export class TalkTable {
  readonly #columns: EntryColumns;
  readonly #talks = new Map<string, Talk>();
  /** Messages whose conversation was not told of yet. */
  readonly #waiting = new Map<string, number[]>();

  constructor(columns: EntryColumns) {
    this.#columns = columns;
  }

  all(): Iterable<Talk> {
    return this.#talks.values();
  }

  get(key: string): Talk | undefined {
    return this.#talks.get(key);
  }

  put({ values, store = "", database }: FoundRecord, key: string, row: number, medium: number): void {
    const waiting = this.#waiting.get(key) ?? [];
    this.#waiting.delete(key);
    const talk = this.#made(key, row, true, values as ConversationValues, { store, database }, medium);
    for (const message of waiting) this.#add(talk, message);
  }

  /** @returns whether a conversation came into being by it */
  putMessage({ values, database }: FoundRecord, row: number, medium: number): boolean {
    const { conversation, address, person } = values as MessageValues;
    // A message that is of no conversation stands with those of its sender: an export has nothing else.
    const key = `${medium}:${conversation ?? `${database}~with~${addressKey(address) ?? person ?? "nobody known"}`}`;
    const known = this.#talks.get(key);
    if (known) {
      this.#add(known, row);
      return false;
    }
    if (conversation === undefined) {
      const members = [{ ...(person && { name: person }), ...(address && { address }) }];
      this.#add(this.#made(key, row, false, { members }, { store: "", database }, medium), row);
      return true;
    }
    const waiting = this.#waiting.get(key);
    if (waiting) waiting.push(row);
    else this.#waiting.set(key, [row]);
    return false;
  }

  #made(
    key: string,
    row: number,
    isTold: boolean,
    values: ConversationValues,
    from: Pick<Talk, "store" | "database">,
    medium: number,
  ): Talk {
    const talk: Talk = { key, row, isTold, values, ...from, medium, rows: [], erased: 0, sorted: true };
    this.#talks.set(key, talk);
    return talk;
  }

  #add(talk: Talk, row: number): void {
    talk.rows.push(row);
    talk.sorted = false;
    if (this.#columns.stateOf(row) === "erased") talk.erased++;
  }

  /** Messages of a conversation by their moments; those without one first. */
  ordered(talk: Talk): readonly number[] {
    const { times } = this.#columns;
    if (!talk.sorted) {
      talk.rows.sort((a, b) => (times[a] || 0) - (times[b] || 0) || a - b);
      talk.sorted = true;
    }
    return talk.rows;
  }
}
