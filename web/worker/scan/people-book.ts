import type { FoundRecord } from "../../../core/finds/record.ts";
import { database } from "../../kept/database.ts";
import { ENTRIES_A_PACK, KeptPeople, keptEntryOf, OF_NO_FIND } from "../../kept/kept-people.ts";

/** What of people's data is to be kept with a scan's next step. */
export interface PeopleStep {
  readonly packs: readonly KeptPeople[];
  /** Databases that this scan tells of for the first time: what an earlier one kept of them goes. */
  readonly fresh: readonly string[];
}
export const NO_PEOPLE: PeopleStep = { packs: [], fresh: [] };

/** What people mean by the rows of one scan of a medium, in packs: with the step that tells of them, and each database once. */
export class PeopleBook {
  readonly #medium: number;
  readonly #scan: number;
  /** Of each database the pack that is being filled, and how many are full. */
  readonly #open = new Map<string, KeptPeople>();
  readonly #changed = new Map<string, KeptPeople>();
  readonly #fresh = new Set<string>();

  constructor(medium: number, scan: number) {
    this.#medium = medium;
    this.#scan = scan;
  }

  async take(records: readonly FoundRecord[]): Promise<void> {
    for (const record of records) {
      const entry = keptEntryOf(record);
      if (!entry) continue;
      const find = record.database ?? OF_NO_FIND;
      let pack = this.#open.get(find) ?? (await this.#begun(find));
      if (pack.entries.length >= ENTRIES_A_PACK) pack = { ...pack, number: pack.number + 1, entries: [] };
      pack.entries.push(entry);
      this.#open.set(find, pack);
      this.#changed.set(`${find} ${pack.number}`, pack);
    }
  }

  /** Where this scan goes on with a database: behind what it kept of it, if it did. */
  async #begun(find: string): Promise<KeptPeople> {
    const last = await database.people
      .where("[medium+find+number]")
      .between([this.#medium, find, 0], [this.#medium, find, Number.POSITIVE_INFINITY])
      .last();
    const kept = KeptPeople.safeParse(last).data;
    if (kept && kept.scan === this.#scan) return kept;
    this.#fresh.add(find);
    return { medium: this.#medium, find, number: 0, scan: this.#scan, entries: [] };
  }

  /** What changed since it was kept. */
  step(): PeopleStep {
    return { packs: [...this.#changed.values()].map((pack) => ({ ...pack, entries: [...pack.entries] })), fresh: [...this.#fresh] };
  }

  /** This is kept now. */
  settle({ packs, fresh }: PeopleStep): void {
    for (const { find, number, entries } of packs) {
      const name = `${find} ${number}`;
      if (this.#changed.get(name)?.entries.length === entries.length) this.#changed.delete(name);
    }
    for (const find of fresh) this.#fresh.delete(find);
  }
}
