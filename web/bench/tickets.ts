import { wantWords } from "../../core/triage/intake.ts";
import { database } from "../kept/database.ts";
import { Job } from "../kept/job.ts";
import { Medium } from "../kept/medium.ts";
import { KeptPart } from "../kept/part.ts";
import { plural } from "../shared/words.ts";
import { partDone, type Standing, standingWords } from "../shell/scan-words.ts";

/** A ticket as it is kept, with its media and their copies. */
export interface KeptTicket {
  readonly job: Job;
  readonly media: readonly Medium[];
  readonly parts: readonly KeptPart[];
}

/** Kept tickets, newest first. What cannot be understood is left out rather than breaking the bench. */
export async function loadTickets(): Promise<KeptTicket[]> {
  const media = (await database.media.toArray()).flatMap((row) => Medium.safeParse(row).data ?? []);
  const parts = (await database.parts.toArray()).flatMap((row) => KeptPart.safeParse(row).data ?? []);
  return (await database.jobs.orderBy("touchedAt").reverse().toArray()).flatMap((row) => {
    const job = Job.safeParse(row).data;
    if (!job) return [];
    return [{ job, media: media.filter((one) => one.job === job.id && !one.aside), parts: parts.filter((one) => one.job === job.id) }];
  });
}

export const wantsOf = (job: Job): string => job.intake.wants.map(wantWords).join(", ");

export const matches = ({ job, media }: KeptTicket, words: string): boolean => {
  const text = `${job.number} ${job.customer} ${job.device} ${wantsOf(job)} ${media.map(({ name }) => name).join(" ")}`.toLowerCase();
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word));
};

/** Whether a job is finished: something was given back. */
export const isDone = ({ job }: KeptTicket): boolean => job.handedOver !== null;

/** Where each medium stands, as far as is kept. */
const standingOf = ({ media, parts }: KeptTicket): Standing[] =>
  media.map(({ id, source, scan }) => {
    const part = source ? undefined : parts.find(({ medium }) => medium === id);
    return { scan, secondsLeft: null, copy: part ? { status: part.status, done: part.mark.done, size: part.size } : null };
  });

/** Where a ticket stands: the station that it goes on at, and the part of its scans that is done, 0 to 1. */
export function standing(ticket: KeptTicket): { to: string; station: string; words: string; part: number } {
  const { job } = ticket;
  const all = standingOf(ticket);
  const part = all.length > 0 ? all.reduce((sum, { scan, copy }) => sum + (copy ? 0 : partDone(scan)), 0) / all.length : 0;
  if (job.handedOver) {
    const { equal, files } = job.handedOver;
    return { to: "hand-over", station: "Hand-over", words: `${equal} of ${plural(files, "file")} given back`, part };
  }
  if (job.tray.length > 0) return { to: "finds", station: "Finds", words: `${job.tray.length} in tray`, part };
  if (all.length === 0) return { to: "intake", station: "Intake", words: "no storage yet", part };
  return { to: "scan", station: "Copy & scan", words: standingWords(all), part };
}
