import { transfer } from "comlink";
import { UnusableError } from "../../../core/bytes/source.ts";
import { differenceOf } from "../../../core/phones/identity.ts";
import { type CopyRecord, CopyRecord as CopyRecordSchema } from "../../kept/copy.ts";
import { database } from "../../kept/database.ts";
import type { Outcome } from "../protocol.ts";
import { AttachedPhone } from "./attached-phone.ts";
import type { BenchWatch } from "./bench-watch.ts";
import { CopyRun } from "./copy-run.ts";
import { lastingSource, sharedPart, sourceOf } from "./phone-parts.ts";
import type { CopyPlace, PartFound, PhonePart, PhoneView } from "./protocol.ts";
import { serveSource } from "./source-port.ts";

/** What jobs read of phones: found, read through a port, copied. */
export class PartDesk {
  readonly #bench: BenchWatch;
  readonly #runs = new Map<number, CopyRun>();
  /** Listings under way, by job. */
  readonly #finding = new Map<number, AbortController>();

  constructor(bench: BenchWatch) {
    this.#bench = bench;
  }

  async find(job: number, serial: string, part: PhonePart, progress: (files: number) => void): Promise<PartFound> {
    const phone = this.#bench.bySerial(serial);
    if (!phone?.adb) return { ok: false, because: "The phone of this ticket is not attached, or does not let this computer in." };
    const stop = new AbortController();
    this.#finding.get(job)?.abort();
    this.#finding.set(job, stop);
    try {
      const record =
        part.kind === "shared" ? await this.#shared(job, phone, progress, stop.signal) : this.#partition(job, phone, part.name);
      await database.copies.put(record.record);
      const { name, size, members } = record.record;
      return { ok: true, name, size, files: part.kind === "shared" ? members.length : null, troubles: record.troubles };
    } catch (cause) {
      return { ok: false, because: cause instanceof UnusableError ? cause.message : `The phone does not answer: ${String(cause)}` };
    } finally {
      if (this.#finding.get(job) === stop) this.#finding.delete(job);
    }
  }

  stopFinding(job: number): void {
    this.#finding.get(job)?.abort();
  }

  async #shared(job: number, phone: AttachedPhone, progress: (files: number) => void, signal: AbortSignal) {
    const { adb, view } = phone;
    if (!adb) throw new UnusableError("The phone is not there any more.");
    const { members, troubles } = await sharedPart(adb, progress, signal);
    const record: CopyRecord = {
      ...newCopy(job, phone),
      part: { kind: "shared" },
      name: `${nameOf(view)}, shared storage`,
      size: 0,
      members,
    };
    return { record: { ...record, size: sourceOf(record, adb, "plain").size }, troubles };
  }

  #partition(job: number, phone: AttachedPhone, name: string) {
    const { view } = phone;
    const partition = view.partitions.find((one) => one.name === name);
    if (!partition) throw new UnusableError(`The phone does not let its partition ${name} be read.`);
    const part = { kind: "partition", name, path: partition.path } as const;
    const record: CopyRecord = { ...newCopy(job, phone), part, name: `${nameOf(view)}, ${name}`, size: partition.size, members: [] };
    return { record, troubles: [] };
  }

  /**
   * The phone of a record, when it lets the record's part be read now: a raw partition needs the access it was listed with.
   * @returns why it cannot be read, in plain words, where it is another one
   */
  #reading({ serial, phone: known, part, size }: CopyRecord): AttachedPhone | string | null {
    let other: string | null = null;
    for (const phone of this.#bench.allBySerial(serial)) {
      if (!phone.adb || !phone.identity) continue;
      const there = part.kind === "shared" ? null : phone.view.partitions.find(({ name }) => name === part.name);
      const difference =
        (known && differenceOf(known, phone.identity)) ??
        (there && there.size !== size ? `its partition ${there.name} has ${there.size} bytes, and had ${size}` : null);
      if (difference) other = `This is another phone of the same serial: ${difference}. What was copied is kept as it is.`;
      else if (there !== undefined) return phone;
    }
    return other;
  }

  async lacks(job: number): Promise<string | null> {
    const record = CopyRecordSchema.safeParse(await database.copies.get(job)).data;
    if (!record) return "";
    return this.#reading(record) instanceof AttachedPhone ? null : record.serial;
  }

  async #source(job: number) {
    const record = CopyRecordSchema.parse(await database.copies.get(job));
    let opened: { readonly adb: unknown; readonly reader: unknown; readonly source: ReturnType<typeof sourceOf> } | null = null;
    const source = lastingSource(record.name, record.size, () => {
      const phone = this.#reading(record);
      if (typeof phone === "string") throw new UnusableError(phone);
      if (!phone?.adb) return null;
      if (opened?.adb !== phone.adb || opened.reader !== phone.reader)
        opened = { adb: phone.adb, reader: phone.reader, source: sourceOf(record, phone.adb, phone.reader) };
      return opened.source;
    });
    return { record, source };
  }

  async port(job: number): Promise<MessagePort> {
    const { source } = await this.#source(job);
    const { port1, port2 } = new MessageChannel();
    serveSource(port1, source);
    return transfer(port2, [port2]);
  }

  async copy(job: number, place: CopyPlace | null, notify: (record: CopyRecord) => void): Promise<Outcome> {
    try {
      const { record, source } = await this.#source(job);
      const reading = this.#reading(record);
      if (typeof reading === "string") return { ok: false, because: reading };
      const run = new CopyRun(place ? { ...record, place } : record, notify);
      this.#runs.set(job, run);
      void run.run(source).finally(() => this.#runs.delete(job));
      return { ok: true };
    } catch (cause) {
      return { ok: false, because: `The copy cannot begin: ${cause instanceof Error ? cause.message : String(cause)}` };
    }
  }

  stopCopy(job: number): void {
    this.#runs.get(job)?.stop();
  }
}

const newCopy = (job: number, { view, identity }: AttachedPhone): Omit<CopyRecord, "part" | "name" | "size" | "members"> => ({
  job,
  serial: view.serial,
  phone: identity,
  place: null,
  status: "found",
  mark: { done: 0, hash: null, unreadable: [] },
  sha256: null,
  because: null,
});
const nameOf = ({ report, name }: PhoneView): string => report?.model ?? name;
