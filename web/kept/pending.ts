import { z } from "zod";
import { database } from "./database.ts";
import { Job } from "./job.ts";

/**
 * What was just answered, until the database has it. A database takes a moment, and a page that is closed or loaded again in it
 * loses what was on its way; the browser's plain storage takes a word at once.
 */
const KEY = (id: number): string => `jubar pending ${id}`;
const Pending = z.record(z.string(), z.unknown());

/** Parts of a job that can be kept as text. Handles of files cannot: they are given again. */
const KEPT = ["customer", "device", "intake", "facts", "handedOver", "phone", "ledger"] as const;
type Change = Partial<Pick<Job, (typeof KEPT)[number]>>;

/** Storage of text as browsers have it; a full or forbidden one keeps nothing, and the database alone does then. */
type Shelf = Pick<Storage, "getItem" | "setItem" | "removeItem">;

function read(shelf: Shelf, id: number): Record<string, unknown> {
  try {
    return Pending.parse(JSON.parse(shelf.getItem(KEY(id)) ?? "{}"));
  } catch {
    return {};
  }
}

/** Notes a change before the database is asked to keep it. */
export function notePending(shelf: Shelf, id: number, change: Change): void {
  const known = KEPT.filter((key) => key in change).map((key) => [key, change[key]]);
  if (known.length === 0) return;
  try {
    shelf.setItem(KEY(id), JSON.stringify({ ...read(shelf, id), ...Object.fromEntries(known) }));
  } catch {
    // No room, or not allowed: the database alone keeps it.
  }
}

/** The database has it. A newer change of the same parts stays noted. */
export function forgetPending(shelf: Shelf, id: number, change: Change): void {
  const left = Object.entries(read(shelf, id)).filter(([key, value]) => {
    const kept = change[key as keyof Change];
    return !(key in change) || JSON.stringify(kept) !== JSON.stringify(value);
  });
  if (left.length === 0) shelf.removeItem(KEY(id));
  else shelf.setItem(KEY(id), JSON.stringify(Object.fromEntries(left)));
}

/** Puts into the database what an earlier page noted and could not hand over. What makes no sense as a part of a job is dropped. */
export async function settlePending(shelf: Shelf, id: number): Promise<void> {
  const noted = read(shelf, id);
  const shape = Job.partial();
  const changes = Object.entries(noted).filter(
    ([key, value]) => KEPT.some((one) => one === key) && shape.safeParse({ [key]: value }).success,
  );
  if (changes.length > 0)
    await database.jobs
      .where("id")
      .equals(id)
      .modify((job) => void Object.assign(job, Object.fromEntries(changes)));
  shelf.removeItem(KEY(id));
}
