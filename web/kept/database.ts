import Dexie, { type EntityTable, type Table } from "dexie";
import type { KeptPlaces } from "../../core/bytes/place-ledger.ts";
import type { Find } from "../../core/finds/find.ts";
import type { ComputerKey } from "../../core/phones/adb/keys.ts";
import type { ModelCard } from "../../core/phones/model-cards.ts";
import { Job } from "./job.ts";
import type { KeptMapping } from "./kept-mapping.ts";
import type { KeptPeople } from "./kept-people.ts";
import type { KeptChunk, KeptRests, KeptStore } from "./kept-rows.ts";
import { Medium } from "./medium.ts";
import { KeptPart } from "./part.ts";
import { intakeFromWants, mediaOfTickets, phoneOfTicket, sweepByDetectors } from "./upgrades.ts";

/** Finds are kept in packs: one row each would cost minutes for a full card. */
export interface Pack {
  readonly medium: number;
  readonly number: number;
  readonly finds: Find[];
  /** Positions of those that are not shown: a scan that goes on must know them. */
  readonly hidden: number[];
}

class JubarDatabase extends Dexie {
  declare jobs: EntityTable<Job, "id">;
  declare media: EntityTable<Medium, "id">;
  declare packs: Table<Pack, [number, number]>;
  /** Databases whose rows are kept, and the rows. */
  declare stores: Table<KeptStore, [number, string]>;
  declare rows: Table<KeptChunk, [number, string, number]>;
  declare rests: Table<KeptRests, [number, string, number]>;
  /** What people mean by rows: messages, contacts, calls, of one database or export after the other. */
  declare people: Table<KeptPeople, [number, string, number]>;
  /** What is known of the bad places of each medium. */
  declare places: Table<KeptPlaces & { readonly medium: number }, number>;
  /** SHA-256 of finds whose content was read. */
  declare hashes: Table<{ readonly medium: number; readonly find: string; readonly sha256: string }, [number, string]>;
  /** Debugging keys: the own one, and those that owners brought. */
  declare keys: Table<ComputerKey, number>;
  /** What of a phone a medium is, by the medium's number. */
  declare parts: Table<KeptPart, number>;
  /** Model cards of this bench. */
  declare models: Table<ModelCard & { id?: number }, number>;

  /** What databases of messengers mean, as somebody said. */
  declare mappings: Table<KeptMapping, number>;

  constructor() {
    // What is kept is on the disk before it counts as kept: a scan goes on from there.
    super("jubar", { chromeTransactionDurability: "strict" });
    this.version(1).stores({ jobs: "++id, touchedAt", chunks: "[job+number], job" });
    this.version(2).upgrade((kept) => kept.table("jobs").toCollection().modify(intakeFromWants));
    this.version(3)
      .stores({ keys: "++id", copies: "job", models: "++id" })
      .upgrade((kept) => kept.table("jobs").toCollection().modify(phoneOfTicket));
    this.version(4)
      .stores({
        media: "++id, job",
        packs: "[medium+number], medium",
        places: "medium",
        hashes: "[medium+find], medium",
        parts: "medium, job",
      })
      .upgrade(mediaOfTickets);
    // What version 4 carried over.
    this.version(5).stores({ chunks: null, copies: null });
    this.version(6).upgrade((kept) => kept.table("media").toCollection().modify(sweepByDetectors));
    this.version(7).stores({
      stores: "[medium+find], medium",
      rows: "[medium+find+number], medium",
      rests: "[medium+find+number], medium",
    });
    this.version(8).stores({ people: "[medium+find+number], medium" });
    this.version(9).stores({ mappings: "++id, fingerprint" });
  }
}

export const database = new JubarDatabase();

/** A kept job, or null where there is none or it cannot be understood. */
export async function loadJob(id: number): Promise<Job | null> {
  return Job.safeParse(await database.jobs.get(id)).data ?? null;
}

/** The media of a ticket in the order they came. One that cannot be understood is an error: nothing is dropped silently. */
export async function loadMedia(job: number): Promise<Medium[]> {
  return Medium.array().parse(await database.media.where("job").equals(job).sortBy("id"));
}

export async function loadMedium(id: number): Promise<Medium | null> {
  return Medium.safeParse(await database.media.get(id)).data ?? null;
}

export async function loadPart(medium: number): Promise<KeptPart | null> {
  return KeptPart.safeParse(await database.parts.get(medium)).data ?? null;
}

/** Notes a new job with the next ticket number, and its first medium where there is one. @returns its id */
export function addJob(
  job: Omit<Job, "id" | "number" | "createdAt" | "touchedAt">,
  addMedium: ((job: number) => Promise<unknown>) | null = null,
): Promise<number> {
  return database.transaction("rw", database.jobs, database.media, database.places, async () => {
    const numbers = (await database.jobs.toArray()).map(({ number }) => Number(number));
    const number = String(Math.max(100, ...numbers) + 1).padStart(4, "0");
    const now = Date.now();
    const id = await database.jobs.add({ ...job, number, createdAt: now, touchedAt: now });
    await addMedium?.(id);
    return id;
  });
}
