import Dexie, { type EntityTable, type Table } from "dexie";
import type { Find } from "../../core/finds/find.ts";
import type { ComputerKey } from "../../core/phones/adb/keys.ts";
import type { ModelCard } from "../../core/phones/model-cards.ts";
import { type CopyRecord, copyFileName } from "./copy.ts";
import { Job } from "./job.ts";
import { intakeFromWants, phoneOfTicket } from "./upgrades.ts";

/** Finds are kept in packed chunks: one row each would cost minutes for a full card. */
export interface Chunk {
  readonly job: number;
  readonly number: number;
  readonly finds: Find[];
}

class JubarDatabase extends Dexie {
  declare jobs: EntityTable<Job, "id">;
  declare chunks: Table<Chunk, [number, number]>;
  /** Debugging keys: the own one, and those that owners brought. */
  declare keys: Table<ComputerKey, number>;
  /** What a job reads of a phone, by the job's id. */
  declare copies: Table<CopyRecord, number>;
  /** Model cards of this bench. */
  declare models: Table<ModelCard & { id?: number }, number>;

  constructor() {
    super("jubar");
    this.version(1).stores({ jobs: "++id, touchedAt", chunks: "[job+number], job" });
    this.version(2).upgrade((kept) => kept.table("jobs").toCollection().modify(intakeFromWants));
    this.version(3)
      .stores({ keys: "++id", copies: "job", models: "++id" })
      .upgrade((kept) => kept.table("jobs").toCollection().modify(phoneOfTicket));
  }
}

export const database = new JubarDatabase();

/** A kept job, or null where there is none or it cannot be understood. */
export async function loadJob(id: number): Promise<Job | null> {
  const parsed = Job.safeParse(await database.jobs.get(id));
  return parsed.success ? parsed.data : null;
}

/** Notes a new job with the next ticket number. @returns its id */
export function addJob(job: Omit<Job, "id" | "number" | "createdAt" | "touchedAt">): Promise<number> {
  return database.transaction("rw", database.jobs, async () => {
    const numbers = (await database.jobs.toArray()).map(({ number }) => Number(number));
    const number = String(Math.max(100, ...numbers) + 1).padStart(4, "0");
    const now = Date.now();
    return database.jobs.add({ ...job, number, createdAt: now, touchedAt: now });
  });
}

/** Forgets a job, what was found in it, and its working copy in the browser's storage. The storage itself is not touched. */
export async function removeJob(id: number): Promise<void> {
  await database.transaction("rw", database.jobs, database.chunks, database.copies, async () => {
    await database.chunks.where("job").equals(id).delete();
    await database.copies.delete(id);
    await database.jobs.delete(id);
  });
  // Most jobs have none, and some places where this runs have no such storage.
  const folder = await globalThis.navigator?.storage?.getDirectory?.();
  await folder?.removeEntry(copyFileName(id)).catch(() => undefined);
}
