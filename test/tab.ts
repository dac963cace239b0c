import type { Remote } from "comlink";
import { portableSha256 } from "../core/bytes/hash.ts";
import type { ByteSource } from "../core/bytes/source.ts";
import type { Find } from "../core/finds/find.ts";
import { sampleOf } from "../core/medium/sample.ts";
import { addJob, database } from "../web/kept/database.ts";
import { blankJob } from "../web/kept/job.ts";
import { newMedium } from "../web/kept/medium.ts";
import type { Desks } from "../web/session/desks.ts";
import { Session } from "../web/session/session.ts";
import { type ShownScan, scanOf } from "../web/session/session-state.ts";
import { rememberGrant } from "../web/session/storage-access.ts";
import { IndexDesk } from "../web/worker/finds/index-desk.ts";
import { ReadingDesk } from "../web/worker/reading/reading-desk.ts";
import { ScanDesk } from "../web/worker/scan/scan-desk.ts";
import { openGrant } from "../web/worker/storage/open-grant.ts";
import { practiceBytes } from "./scanning.ts";

/** One tab of a browser with one ticket open, its workers in this process. It speaks to other tabs as real ones do. */
export class Tab {
  readonly session: Session;
  readonly index = new IndexDesk();
  readonly reading = new ReadingDesk();
  readonly scans = new Map<number, ScanDesk>();

  constructor(job: number) {
    const asked = <T>(desk: T) => desk as unknown as Remote<T>;
    this.reading.use(asked(this.index));
    const desks: Desks = {
      index: asked(this.index),
      people: Promise.resolve(asked(this.index.people)),
      reading: asked(this.reading),
      scan: (medium) => {
        const desk = this.scans.get(medium) ?? new ScanDesk(medium);
        this.scans.set(medium, desk);
        return asked(desk);
      },
      close: () => {},
    };
    this.session = new Session(job, desks);
  }

  static async open(job: number): Promise<Tab> {
    const tab = new Tab(job);
    await tab.session.opened;
    return tab;
  }

  /** How a medium's scan is shown in this tab. */
  scan(medium: number): ShownScan {
    const state = this.session.store.getState().media.find((one) => one.medium.id === medium);
    if (!state) throw new Error(`this tab knows no medium ${medium}`);
    return scanOf(state);
  }

  /** Waits until a scan is shown as this. */
  async until(medium: number, status: ShownScan["status"]): Promise<ShownScan> {
    const before = performance.now();
    while (this.scan(medium).status !== status) {
      if (performance.now() - before > 60_000)
        throw new Error(`it is ${this.scan(medium).status}, and not ${status}: ${this.scan(medium).because}`);
      await new Promise((later) => setTimeout(later, 3));
    }
    return this.scan(medium);
  }

  /** Ends its work, as closing the tab would; what was kept stays. */
  async close(): Promise<void> {
    for (const scan of this.scans.values()) await scan.end();
    this.session.close();
    this.index.close();
  }
}

let practiceCard: File | null = null;
export function cardFile(name = "theatre-card.img", bytes?: Uint8Array): File {
  practiceCard ??= new File([practiceBytes() as BlobPart], "theatre-card.img");
  return bytes || name !== practiceCard.name ? new File([(bytes ?? practiceBytes()) as BlobPart], name) : practiceCard;
}

/** A ticket with these files as its media, as a person would have dropped them. @returns the ticket's number and those of the media */
export async function ticketOf(...files: readonly File[]): Promise<{ job: number; media: number[] }> {
  const job = await addJob(blankJob());
  const media: number[] = [];
  for (const file of files) media.push(await addMedium(job, file));
  return { job, media };
}

export async function addMedium(job: number, file: File): Promise<number> {
  const grant = { kind: "file", file } as const;
  const source: ByteSource = await openGrant(grant);
  const sample = await sampleOf(source, await portableSha256());
  rememberGrant(sample, grant);
  return database.media.add(
    newMedium(job, { kind: "image", name: file.name, source: { kind: "file", name: file.name, size: source.size, sample } }),
  );
}

/** All finds that are kept of a medium, as far as they are shown. */
export async function keptFinds(medium: number): Promise<Map<string, Find>> {
  const packs = await database.packs.where("medium").equals(medium).toArray();
  return new Map(
    packs.flatMap(({ finds, hidden }) => finds.flatMap((find, position) => (hidden.includes(position) ? [] : [[find.id, find] as const]))),
  );
}

const put = IDBObjectStore.prototype.put;

/** The browser's database takes nothing more from so many writes on. @returns what makes room again */
export function fullAfter(writes: number, cause: () => unknown = () => new DOMException("no room", "QuotaExceededError")): () => void {
  let done = 0;
  IDBObjectStore.prototype.put = function (this: IDBObjectStore, ...given) {
    if (done++ >= writes) throw cause();
    return put.apply(this, given);
  };
  return () => {
    IDBObjectStore.prototype.put = put;
  };
}

export async function emptyDatabase(): Promise<void> {
  IDBObjectStore.prototype.put = put;
  for (const table of database.tables) await table.clear();
}
