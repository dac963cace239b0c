import { transfer } from "comlink";
import { portableSha256 } from "../../../core/bytes/hash.ts";
import { UnusableError } from "../../../core/bytes/source.ts";
import { whyNot } from "../../../core/handover/refusals.ts";
import { type CopyKept, CopyWork, type OpenTarget } from "../../../core/medium/copying.ts";
import type { CopyMark } from "../../../core/medium/working-copy.ts";
import { AttachedPhone } from "../../../core/phones/attached-phone.ts";
import { differenceOf } from "../../../core/phones/identity.ts";
import type { PhoneView } from "../../../core/phones/phone-view.ts";
import { Conductor } from "../../../core/work/conductor.ts";
import { Turns } from "../../../core/work/turns.ts";
import { database, loadPart } from "../../kept/database.ts";
import { eraseBegunWith, eraseFile } from "../../kept/erase-file.ts";
import { newMedium } from "../../kept/medium.ts";
import { Line } from "../../kept/news.ts";
import { lacksRoom, NO_ROOM } from "../../kept/no-room.ts";
import { NotMine, Ownership } from "../../kept/ownership.ts";
import { copyFileName, type KeptPart } from "../../kept/part.ts";
import { clock } from "../clock.ts";
import type { Outcome } from "../storage/grant.ts";
import type { BenchWatch } from "./bench-watch.ts";
import { openTarget } from "./copy-target.ts";
import { lastingSource, sharedPart, sourceOf } from "./phone-parts.ts";
import type { CopyPlace, PartFound, PhonePart } from "./protocol.ts";
import { serveSource } from "./source-port.ts";
import { takePeople } from "./take-people.ts";

const GONE = "The phone is not there any more.";
const REMOVED = "This part was removed from its ticket.";

const KINDS = { people: "people", shared: "shared storage", partition: "partition" } as const;

/** Milliseconds between news of a copy. */
const TELL_EVERY = 200;

/** What of a phone was found, before it is a medium. */
type FoundPart = Pick<KeptPart, "part" | "name" | "size" | "members">;

/** How far its copy is. */
type Copied = Pick<KeptPart, "place" | "status" | "mark" | "sha256">;
const NOT_COPIED: Copied = { place: null, status: "new", mark: { done: 0, hash: null, unreadable: [] }, sha256: null };

/** What tickets read of phones: found, read through a port, copied. */
export class PartDesk {
  readonly #bench: Pick<BenchWatch, "bySerial" | "allBySerial">;
  /** Copies under way, or resting, by medium. */
  readonly #copies = new Map<number, Conductor<CopyMark>>();
  readonly #starts = new Turns();
  /** Listings under way, by job. */
  readonly #finding = new Map<number, AbortController>();

  readonly #line = new Line((notice) => {
    if (notice.type === "end") for (const medium of notice.media) void this.#copies.get(medium)?.end();
  });

  constructor(bench: Pick<BenchWatch, "bySerial" | "allBySerial">) {
    this.#bench = bench;
  }

  async find(job: number, serial: string, part: PhonePart, progress: (files: number) => void): Promise<PartFound> {
    const phone = this.#bench.bySerial(serial);
    if (!phone?.adb) return { ok: false, because: "The phone of this ticket is not attached, or does not let this computer in." };
    const stop = new AbortController();
    this.#finding.get(job)?.abort();
    this.#finding.set(job, stop);
    try {
      if (part.kind === "people") return await this.#people(job, phone, progress, stop.signal);
      const { found, troubles } = part.kind === "shared" ? await this.#shared(phone, progress, stop.signal) : this.#partition(phone, part);
      const medium = await this.#note(job, phone, found);
      return { ok: true, medium, isCopied: false, troubles };
    } catch (cause) {
      return { ok: false, because: cause instanceof UnusableError ? cause.message : `The phone does not answer: ${String(cause)}` };
    } finally {
      if (this.#finding.get(job) === stop) this.#finding.delete(job);
    }
  }

  stopFinding(job: number): void {
    this.#finding.get(job)?.abort();
  }

  /** Makes a found part a medium of a ticket. @returns its number */
  async #note(job: number, { view, identity }: AttachedPhone, found: FoundPart, copied: Copied = NOT_COPIED): Promise<number> {
    const medium = await database.transaction("rw", database.media, database.parts, async () => {
      const kind = KINDS[found.part.kind];
      const part = found.part.kind === "partition" ? found.part.name : kind;
      const id = await database.media.add(newMedium(job, { kind, name: found.name, source: null, phone: identity, part }));
      await database.parts.put({
        ...found,
        medium: id,
        job,
        serial: view.serial,
        phone: identity,
        ...copied,
        because: null,
      });
      return id;
    });
    this.#line.say({ type: "media", job });
    return medium;
  }

  /** Asks for people's data, and keeps what is told: it is a medium when all of it is here. */
  async #people(job: number, phone: AttachedPhone, progress: (rows: number) => void, signal: AbortSignal): Promise<PartFound> {
    const { adb, view } = phone;
    if (!adb) throw new UnusableError(GONE);
    const place = { kind: "browser", file: await freshPeopleFile(job) } as const;
    try {
      const target = await openTarget(place, true);
      try {
        const { size, troubles } = await takePeople(adb, target.write, progress, signal);
        const mark = { done: size, hash: null, unreadable: [] };
        const copied: Copied = { place, status: "done", mark, sha256: await hashOfTarget(target, size) };
        await target.close();
        const found: FoundPart = { part: { kind: "people" }, name: `${nameOf(view)}, people's data`, size, members: [] };
        return { ok: true, medium: await this.#note(job, phone, found, copied), isCopied: true, troubles };
      } finally {
        await target.close().catch(() => undefined);
      }
    } catch (cause) {
      // Half an answer is no medium.
      await eraseFile([place.file]);
      throw cause;
    }
  }

  async #shared({ adb, view }: AttachedPhone, progress: (files: number) => void, signal: AbortSignal) {
    if (!adb) throw new UnusableError(GONE);
    const { members, troubles } = await sharedPart(adb, progress, signal);
    const found: FoundPart = { part: { kind: "shared" }, name: `${nameOf(view)}, shared storage`, size: 0, members };
    return { found: { ...found, size: sourceOf(found, adb, "plain").size }, troubles };
  }

  #partition({ view }: AttachedPhone, { name }: PhonePart & { kind: "partition" }): { found: FoundPart; troubles: string[] } {
    const partition = view.partitions.find((one) => one.name === name);
    if (!partition) throw new UnusableError(`The phone does not let its partition ${name} be read.`);
    const part = { kind: "partition", name, path: partition.path } as const;
    return { found: { part, name: `${nameOf(view)}, ${name}`, size: partition.size, members: [] }, troubles: [] };
  }

  /**
   * The phone of a record, when it lets the record's part be read now: a raw partition needs the access it was listed with.
   * @returns why it cannot be read, in plain words, where it is another one
   */
  #reading({ serial, phone: known, part, size }: KeptPart): AttachedPhone | string | null {
    let other: string | null = null;
    for (const phone of this.#bench.allBySerial(serial)) {
      if (!phone.adb || !phone.identity) continue;
      const there = part.kind !== "partition" ? null : phone.view.partitions.find(({ name }) => name === part.name);
      const difference =
        (known && differenceOf(known, phone.identity)) ??
        (there && there.size !== size ? `its partition ${there.name} has ${there.size} bytes, and had ${size}` : null);
      if (difference) other = `This is another phone of the same serial: ${difference}. What was copied is kept as it is.`;
      else if (there !== undefined) return phone;
    }
    return other;
  }

  async lacks(medium: number): Promise<string | null> {
    const record = await loadPart(medium);
    if (!record) return "";
    return this.#reading(record) instanceof AttachedPhone ? null : record.serial;
  }

  #source(record: KeptPart) {
    let opened: { readonly adb: unknown; readonly reader: unknown; readonly source: ReturnType<typeof sourceOf> } | null = null;
    return lastingSource(record.name, record.size, () => {
      const phone = this.#reading(record);
      if (typeof phone === "string") throw new UnusableError(phone);
      if (!phone?.adb) return null;
      if (opened?.adb !== phone.adb || opened.reader !== phone.reader)
        opened = { adb: phone.adb, reader: phone.reader, source: sourceOf(record, phone.adb, phone.reader) };
      return opened.source;
    });
  }

  async port(medium: number): Promise<MessagePort> {
    const record = await loadPart(medium);
    // A port that nobody serves would be waited for without an end.
    if (!record) throw new UnusableError(REMOVED);
    const { port1, port2 } = new MessageChannel();
    serveSource(port1, this.#source(record));
    return transfer(port2, [port2]);
  }

  /** Begins a working copy, goes on with one, or wakes one that rests here. */
  copy(medium: number, place: CopyPlace | null, steal: boolean): Promise<Outcome> {
    return this.#starts.take(() => this.#copy(medium, place, steal));
  }

  async #copy(medium: number, place: CopyPlace | null, steal: boolean): Promise<Outcome> {
    const resting = this.#copies.get(medium);
    if (resting?.isAlive) {
      resting.start();
      return { ok: true };
    }
    try {
      const record = await loadPart(medium);
      if (!record) return { ok: false, because: REMOVED };
      const reading = this.#reading(record);
      if (typeof reading === "string") return { ok: false, because: reading };
      const chosen = place?.kind === "browser" ? ({ kind: "browser", file: copyFileName(medium) } as const) : (place ?? record.place);
      if (!chosen) return { ok: false, because: "It is not chosen yet where the copy goes." };
      const ownership = await Ownership.take(medium, steal);
      if (!ownership) return { ok: false, because: "This is worked on already: by its scan here, or in another tab." };
      await this.#conduct({ ...record, place: chosen }, chosen, ownership).catch((cause: unknown) => {
        ownership.letGo();
        throw cause;
      });
      return { ok: true };
    } catch (cause) {
      return { ok: false, because: `The copy cannot begin: ${cause instanceof Error ? cause.message : String(cause)}` };
    }
  }

  async #conduct(record: KeptPart, place: NonNullable<KeptPart["place"]>, ownership: Ownership): Promise<void> {
    const { medium, job } = record;
    const keep = (kept: CopyKept) =>
      database.transaction("rw", database.media, database.parts, database.jobs, async () => {
        await ownership.check();
        await database.parts.put({ ...record, ...kept, mark: plain(kept.mark) });
        await database.jobs.update(job, { touchedAt: Date.now() });
      });
    let { done } = record.mark;
    let told = 0;
    const tell = () => {
      told = clock.now();
      this.#line.say({ type: "copy", job, medium, copy: { status: conductor.state, because: conductor.because, done } });
    };
    const work = new CopyWork({
      copied: (mark) => {
        done = mark.done;
        if (clock.now() - told > TELL_EVERY) tell();
      },
      source: this.#source(record),
      mark: record.mark,
      sha256: await portableSha256(),
      openTarget: (mark) => openTarget(place, mark.done === 0),
      keep,
      takenOver: (cause) => (cause instanceof NotMine ? cause.message : null),
      whyNot: (cause) => (lacksRoom(cause) ? NO_ROOM : `The copy broke off: ${whyNot(cause)}.`),
    });
    const conductor: Conductor<CopyMark> = new Conductor(work, clock, () => tell(), record.status);
    this.#copies.set(medium, conductor);
    conductor.start();
    void conductor.over.then(() => {
      this.#copies.delete(medium);
      ownership.letGo();
    });
  }

  pauseCopy(medium: number): void {
    this.#copies.get(medium)?.pause();
  }

  stopCopy(medium: number): void {
    this.#copies.get(medium)?.stop();
  }
}

/** The name of a file for people's data of a ticket; what a page that was closed in the middle left is thrown away. */
async function freshPeopleFile(job: number): Promise<string> {
  const begin = `people-of-ticket-${job}-`;
  const parts = await database.parts.where("job").equals(job).toArray();
  await eraseBegunWith(begin, new Set(parts.flatMap(({ place }) => (place?.kind === "browser" ? [place.file] : []))));
  return `${begin}${Date.now()}.bin`;
}

/** SHA-256 of what was written. */
async function hashOfTarget(target: OpenTarget, size: number): Promise<string> {
  const sha256 = await portableSha256();
  sha256.start();
  for (let at = 0; at < size; at += READ_BACK) sha256.update(await target.read(at, Math.min(READ_BACK, size - at)));
  return sha256.digest();
}
const READ_BACK = 1024 * 1024;

const plain = ({ done, hash, unreadable }: CopyMark): KeptPart["mark"] => ({
  done,
  hash: hash && new Uint8Array(hash),
  unreadable: unreadable.map(({ offset, length }) => ({ offset, length })),
});
const nameOf = ({ report, name }: PhoneView): string => report?.model ?? name;
