import { proxy, transfer, wrap } from "comlink";
import type { KeptPlaces } from "../../core/bytes/place-ledger.ts";
import type { PhoneView } from "../../core/phones/phone-view.ts";
import { blankIntake, type Intake } from "../../core/triage/intake.ts";
import { wantsFromText } from "../../core/triage/spoken-wants.ts";
import { addJob, database } from "../kept/database.ts";
import { blankJob } from "../kept/job.ts";
import { type MediumKind, newMedium, type SourceRef } from "../kept/medium.ts";
import { KeptPart, lacksOf } from "../kept/part.ts";
import type { Lacks } from "../kept/stretch.ts";
import type { Grant } from "../worker/storage/grant.ts";
import type { Peek, PeekWorker } from "../worker/storage/peek.worker.ts";
import { askPassphrase } from "./passphrase.ts";
import { rememberGrant } from "./storage-access.ts";

/** Something that was put on the bench: a dropped or chosen file, or a medium of the own server. */
export interface Offered {
  readonly grant: Grant;
  readonly handle?: FileSystemFileHandle | FileSystemDirectoryHandle;
  /** Hears how much of it is unpacked, 0 to 1. */
  readonly progress?: (part: number) => void;
  /** What is known of the customer already: practice media bring it along. */
  readonly ticket?: Ticket;
}

interface Ticket {
  readonly customer: string;
  readonly device: string;
  readonly wants: string;
}

export type Looked =
  | { readonly ok: true; readonly kind: MediumKind; readonly source: SourceRef; readonly grant: Grant; readonly places: KeptPlaces }
  | { readonly ok: false; readonly because: string };

async function peek(grant: Grant, progress: (part: number) => void): Promise<Peek> {
  const worker = new Worker(new URL("../worker/storage/peek.worker.ts", import.meta.url), { type: "module" });
  try {
    return await wrap<PeekWorker>(worker).look(grant.kind === "port" ? transfer(grant, [grant.port]) : grant, proxy(progress));
  } finally {
    worker.terminate();
  }
}

/** What a person would call it. */
export const nameOf = (grant: Grant): string =>
  grant.kind === "file" ? grant.file.name : grant.kind === "folder" ? grant.handle.name : grant.name;

/** What an image may be packed as, and is not unpacked here. */
const PACKED = /\.(7z|rar|bz2|zst)$/i;

/** A working copy that was made into a file of one's own and is brought back: what it lacks is known. */
async function lacksOfFile(handle: Offered["handle"]): Promise<Lacks | null> {
  if (handle?.kind !== "file") return null;
  for (const kept of await database.parts.toArray()) {
    const record = KeptPart.safeParse(kept).data;
    if (record?.place?.kind === "file" && (await record.place.handle.isSameEntry(handle).catch(() => false))) return lacksOf(record);
  }
  return null;
}

/** Looks at what was offered. @returns how it is known again, or why it cannot be worked on */
export async function lookAt(offered: Offered): Promise<Looked> {
  const { handle } = offered;
  const lacks = offered.grant.kind === "file" ? (offered.grant.lacks ?? (await lacksOfFile(handle))) : null;
  const grant = offered.grant.kind === "file" && lacks ? { ...offered.grant, lacks } : offered.grant;
  const name = nameOf(grant);
  if (PACKED.test(name)) return { ok: false, because: `${name} is packed: unpack it first, then drop the image that was in it.` };
  const { progress = () => {} } = offered;
  let seen = await peek(grant, progress);
  for (let tries = 0; !seen.ok && seen.passphrase && grant.kind === "file"; tries++) {
    const passphrase = await askPassphrase(name, tries > 0);
    if (passphrase === null) return { ok: false, because: `${name} is encrypted and stays closed: its owner's passphrase is needed.` };
    seen = await peek({ ...grant, passphrase }, progress);
  }
  if (!seen.ok) return seen;
  if (grant.kind === "file" || grant.kind === "files" || grant.kind === "together") rememberGrant(seen.sample, grant);
  return {
    ok: true,
    grant,
    places: seen.places,
    // A medium that the own server holds is a card in a reader.
    kind: grant.kind === "url" && seen.kind === "image" ? "card" : seen.kind,
    source: {
      kind: grant.kind === "folder" || grant.kind === "files" ? "folder" : grant.kind === "url" ? "url" : handle ? "handle" : "file",
      name,
      size: seen.size,
      sample: seen.sample,
      ...(handle && { handle }),
      ...(lacks && { lacks }),
      ...(seen.unpacked && { unpacked: seen.unpacked }),
      ...(grant.kind === "url" && { url: grant.url }),
    },
  };
}

/** Notes a new job, with its first medium or before there is any. @returns its id */
export function newTicket(
  looked: Extract<Looked, { ok: true }> | null,
  ticket: Ticket = { customer: "", device: "", wants: "" },
): Promise<number> {
  const { customer, device, wants } = ticket;
  // An image on the bench is that of a card: there is one, and it is out already.
  const intake: Intake = { ...blankIntake(), wants: wantsFromText(wants), card: looked ? "yes" : null };
  return addJob({ ...blankJob(), customer, device, intake }, looked && ((job) => addLooked(job, looked)));
}

/** Notes what was looked at as a medium of a ticket. @returns its number */
export async function addLooked(job: number, { kind, source, places }: Extract<Looked, { ok: true }>): Promise<number> {
  const id = await database.media.add(newMedium(job, { kind, name: source.name, source }));
  await database.places.put({ medium: id, ...places });
  return id;
}

/** Notes a new job for a phone that lies on the bench. @returns its id */
export function newPhoneTicket({ report, name, serial }: PhoneView): Promise<number> {
  const device = [report?.maker, report?.model ?? name].filter(Boolean).join(" ");
  return addJob({ ...blankJob(), device, phone: serial });
}

/** What the files that were dropped stand for: a folder too is handed on as a file, since a drop knows only files. */
const DROPPED = new WeakMap<File, Offered>();

/** What a dropped file stands for. */
export const offeredBy = (file: File): Offered | null => DROPPED.get(file) ?? null;

/**
 * The files of a drop, each with the handle by which it is opened again; a folder with its own, which who only asks for files loses. While something
 * is still held over the page nothing of it can be read.
 */
export async function droppedFiles(event: unknown): Promise<File[]> {
  const { type, dataTransfer } = event as { readonly type: string; readonly dataTransfer?: DataTransfer };
  if (type !== "drop" || !dataTransfer) return [];
  // Everything must be taken from the event before the first pause.
  const offered = await Promise.all([...dataTransfer.items].filter(({ kind }) => kind === "file").map(offeredItem));
  return offered.flatMap((one) => {
    if (!one) return [];
    const file = one.grant.kind === "file" ? one.grant.file : new File([], nameOf(one.grant));
    DROPPED.set(file, one);
    return [file];
  });
}

async function offeredItem(item: DataTransferItem): Promise<Offered | null> {
  const file = item.getAsFile();
  const handle = await (item as { getAsFileSystemHandle?(): Promise<FileSystemHandle | null> }).getAsFileSystemHandle?.().catch(() => null);
  if (handle?.kind === "directory") {
    const folder = handle as FileSystemDirectoryHandle;
    return { grant: { kind: "folder", handle: folder }, handle: folder };
  }
  if (!file) return null;
  return { grant: { kind: "file", file }, ...(handle?.kind === "file" && { handle: handle as FileSystemFileHandle }) };
}
