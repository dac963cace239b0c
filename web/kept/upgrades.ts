import type { Transaction } from "dexie";
import { unknownFacts } from "../../core/triage/facts.ts";
import { blankIntake, type Want } from "../../core/triage/intake.ts";
import { newScan } from "./kept-scan.ts";

/** Steps from one version of a kept job to the next. Each works on the job in place, as Dexie's `modify` hands it over. */

/** What was wanted stays as it was said: an upgrade does the same on any day. */
const wordsWanted = (text: string): Want[] =>
  text
    .split(/[,;\n]/)
    .map((words) => words.trim())
    .filter(Boolean)
    .map((words) => ({ kind: "any kind", from: null, to: null, who: "", words }));

/** Version 1 kept the wants as a line of text, and knew nothing else of the first talk. */
export function intakeFromWants(job: Record<string, unknown>): void {
  job.intake = { ...blankIntake(), wants: wordsWanted(typeof job.wants === "string" ? job.wants : "") };
  job.facts = unknownFacts();
  delete job.wants;
}

/** Version 2 knew nothing of phones: a ticket had storage only. */
export function phoneOfTicket(job: Record<string, unknown>): void {
  job.phone = null;
  job.ledger = [];
}

/** A kept row of before, as far as a step needs it. */
type Row = Record<string, unknown>;
const isRow = (value: unknown): value is Row => typeof value === "object" && value !== null;

/** What a copy's states were called until version 3. */
const COPY_STATES: Readonly<Record<string, string>> = {
  found: "new",
  running: "stopped",
  stopped: "stopped",
  failed: "failed",
  done: "done",
};

/**
 * Version 3 knew one storage for each ticket, kept in the ticket itself: it becomes the ticket's first medium. Finds, tray and copies get the
 * medium's number. A scan that was under way begins anew over what it found: its checkpoint told too little to go on from.
 */
export async function mediaOfTickets(kept: Transaction): Promise<void> {
  const [jobs, chunks, copies] = ["jobs", "chunks", "copies"].map((name) => kept.table<Row, number>(name));
  for (const job of await jobs.toArray()) {
    const id = Number(job.id);
    const copy = await copies.get(id);
    const source = isRow(job.source) ? job.source : null;
    if (source || copy) {
      const medium = Number(await kept.table<Row, number>("media").add(mediumOf(job, source, copy ?? null)));
      await chunks
        .where("job")
        .equals(id)
        .each((chunk) => kept.table("packs").put({ medium, number: chunk.number, finds: chunk.finds, hidden: [] }));
      if (copy) await kept.table("parts").put(partOf(copy, id, medium));
      if (Array.isArray(job.tray)) job.tray = job.tray.map((find) => `${medium}:${find}`);
    }
    delete job.source;
    delete job.scan;
    await jobs.put(job);
  }
}

function mediumOf(job: Row, source: Row | null, copy: Row | null): Row {
  const part = copy && isRow(copy.part) ? copy.part : null;
  const shared = part?.kind === "shared";
  const kind = source?.kind === "folder" ? "folder" : copy && source?.kind !== "url" ? (shared ? "shared storage" : "partition") : "image";
  return {
    job: job.id,
    kind,
    name: source?.name ?? copy?.name,
    source: source && without(source, "job"),
    phone: copy?.phone ?? null,
    part: part ? (shared ? "shared storage" : part.name) : null,
    sha256: copy?.sha256 ?? null,
    aside: false,
    owner: 0,
    scan: scanOf(isRow(job.scan) ? job.scan : {}),
    addedAt: job.createdAt,
  };
}

function scanOf(old: Row): Row {
  const depth = old.depth === "quick" ? "quick" : "deep";
  const fresh = newScan(depth);
  const isDone = old.status === "done";
  const isNew = old.status === "new";
  return {
    ...fresh,
    ...without(old, "checkpoint"),
    status: isDone ? "done" : isNew ? "new" : "stopped",
    checkpoint: { ...fresh.checkpoint, pass: isDone ? "done" : "listing" },
    // Packs of before stay until the scan that goes over them again is done; it begins behind all of them.
    firstPack: isDone || isNew ? 0 : FAR_BEHIND,
    progress: isDone ? old.progress : fresh.progress,
    map: null,
  };
}

/** Behind any pack that version 3 can have written. */
const FAR_BEHIND = 1_000_000;

function partOf(copy: Row, job: number, medium: number): Row {
  const place = isRow(copy.place) && copy.place.kind === "browser" ? { kind: "browser", file: `working-copy-${job}.bin` } : copy.place;
  return { ...copy, job, medium, place, phone: copy.phone ?? null, status: COPY_STATES[String(copy.status)] ?? "stopped" };
}

const without = (row: Row, key: string): Row => Object.fromEntries(Object.entries(row).filter(([name]) => name !== key));

/** Version 5 kept of a sweep how far three detectors of fixed names were busy, and what was dug up: now each detector keeps its own. */
export function sweepByDetectors(medium: Row): void {
  const sweep = isRow(medium.scan) && isRow(medium.scan.checkpoint) ? medium.scan.checkpoint.sweep : null;
  if (!isRow(sweep) || isRow(sweep.detectors)) return;
  const of = (busyTo: unknown, kept: unknown = []) => ({ busyTo: Number(busyTo ?? 0), kept: Array.isArray(kept) ? kept : [] });
  sweep.detectors = { checked: of(sweep.busyTo), pages: of(sweep.pagesTo), followed: of(sweep.textTo), lists: of(0, sweep.dug) };
  for (const old of ["busyTo", "pagesTo", "textTo", "dug"]) delete sweep[old];
}
