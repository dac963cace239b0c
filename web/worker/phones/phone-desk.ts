import { transfer } from "comlink";
import { UnusableError } from "../../../core/bytes/source.ts";
import { backUpApps } from "../../../core/phones/adb/app-backup.ts";
import { type EasyLook, lookAtEasyPlaces } from "../../../core/phones/adb/easy-look.ts";
import { fingerprintOf } from "../../../core/phones/adb/keys.ts";
import { type CopyRecord, CopyRecord as CopyRecordSchema } from "../../kept/copy.ts";
import { database } from "../../kept/database.ts";
import type { Outcome } from "../protocol.ts";
import { AdbServer } from "./adb-server.ts";
import { AttachedPhone, type Line } from "./attached-phone.ts";
import { CopyRun } from "./copy-run.ts";
import { bringKey, ownKey } from "./key-shelf.ts";
import { lastingSource, sharedPart, sourceOf } from "./phone-parts.ts";
import { lineOf, practicePhones } from "./practice-lines.ts";
import type { CopyPlace, PartFound, PhonePart, PhoneView, PhoneWorker } from "./protocol.ts";
import { serveSource } from "./source-port.ts";
import { tunnelFacts } from "./tunnels.ts";
import { usbPhones } from "./usb.ts";

/** Milliseconds between looks at what is plugged in. */
const LOOK_EVERY = 600;
/** The machine's adb server is asked less often: each question opens a connection. */
const ASK_SERVER_EVERY = 3000;

/** Holds every phone on the bench: one for the whole application. */
export class PhoneDesk implements PhoneWorker {
  readonly #phones = new Map<string, AttachedPhone>();
  readonly #runs = new Map<number, CopyRun>();
  #notify: (phones: readonly PhoneView[]) => void = () => {};
  #watching = false;
  #askedServer = 0;

  watch(notify: (phones: readonly PhoneView[]) => void): void {
    this.#notify = notify;
    this.#tell();
    if (this.#watching) return;
    this.#watching = true;
    void this.#lookOn();
  }

  #tell(): void {
    this.#notify(
      [...this.#phones.values()].map(({ view }) => view).filter(({ state, way }) => state !== "nothing attached" || way !== "practice"),
    );
  }

  async #lookOn(): Promise<never> {
    for (;;) {
      await this.#look().catch(() => undefined);
      await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY));
    }
  }

  async #look(): Promise<void> {
    const tunnels = await tunnelFacts();
    for (const seen of tunnels ? await practicePhones() : [])
      this.#at(`practice/${seen.id}`, seen.card.model, "practice", seen.serial).cable(lineOf(seen, tunnels?.token ?? ""));
    const usb = await usbPhones();
    for (const { serial, name, open } of usb) this.#at(`usb/${serial}`, name, "USB", serial).cable({ kind: "daemon", open });
    this.#unplugMissing(
      "usb/",
      usb.map(({ serial }) => `usb/${serial}`),
    );
    if (Date.now() - this.#askedServer < ASK_SERVER_EVERY) return;
    this.#askedServer = Date.now();
    const served = tunnels?.adbServer ? await new AdbServer(tunnels.token).phones() : [];
    for (const { serial, state, model, open } of served) {
      const line: Line = state === "device" ? { kind: "served", open } : { kind: state === "unauthorized" ? "asking" : "offline" };
      this.#at(`adb/${serial}`, model ?? serial, "adb server", serial).cable(line);
    }
    this.#unplugMissing(
      "adb/",
      served.map(({ serial }) => `adb/${serial}`),
    );
  }

  #at(id: string, name: string, way: PhoneView["way"], serial: string): AttachedPhone {
    const known = this.#phones.get(id);
    if (known) return known;
    const phone = new AttachedPhone(id, name, way, serial, () => this.#tell());
    this.#phones.set(id, phone);
    return phone;
  }

  #unplugMissing(begins: string, there: readonly string[]): void {
    for (const [id, phone] of this.#phones)
      if (id.startsWith(begins) && !there.includes(id)) {
        phone.cable({ kind: "none" });
        this.#phones.delete(id);
        this.#tell();
      }
  }

  #bySerial(serial: string): AttachedPhone | null {
    const all = [...this.#phones.values()].filter(({ view }) => view.serial === serial);
    return all.find(({ adb }) => adb !== null) ?? all[0] ?? null;
  }

  async fingerprint(): Promise<string> {
    return fingerprintOf(await ownKey());
  }

  async askAgain(id: string): Promise<void> {
    await this.#phones.get(id)?.askAgain();
  }

  async easyLook(id: string): Promise<EasyLook | null> {
    const adb = this.#phones.get(id)?.adb;
    return adb ? lookAtEasyPlaces(adb).catch(() => null) : null;
  }

  async takeElevatedAccess(id: string): Promise<Outcome> {
    return (await this.#phones.get(id)?.takeElevatedAccess()) ?? GONE;
  }

  async giveElevatedBack(id: string): Promise<void> {
    this.#phones.get(id)?.giveElevatedBack();
  }

  async startRecovery(id: string, image: Uint8Array): Promise<Outcome> {
    return (await this.#phones.get(id)?.startRecovery(image)) ?? GONE;
  }

  async repair(id: string, image: Uint8Array, progress: (part: number) => void): Promise<Outcome> {
    return (await this.#phones.get(id)?.repair(image, progress)) ?? GONE;
  }

  async bringKey(text: string, name: string): Promise<Outcome> {
    try {
      await bringKey(text, name);
    } catch (cause) {
      if (cause instanceof UnusableError) return { ok: false, because: cause.message };
      throw cause;
    }
    // Those that were asked in vain are asked with the new key.
    for (const phone of this.#phones.values()) if (phone.view.state === "waiting for the person to allow") void phone.askAgain();
    return { ok: true };
  }

  async find(job: number, serial: string, part: PhonePart, progress: (files: number) => void): Promise<PartFound> {
    const phone = this.#bySerial(serial);
    if (!phone?.adb) return { ok: false, because: "The phone of this ticket is not attached, or does not let this computer in." };
    try {
      const record = part.kind === "shared" ? await this.#shared(job, phone, progress) : this.#partition(job, phone, part.name);
      await database.copies.put(record.record);
      const { name, size, members } = record.record;
      return { ok: true, name, size, files: part.kind === "shared" ? members.length : null, troubles: record.troubles };
    } catch (cause) {
      return { ok: false, because: cause instanceof UnusableError ? cause.message : `The phone does not answer: ${String(cause)}` };
    }
  }

  async #shared(job: number, phone: AttachedPhone, progress: (files: number) => void) {
    const { adb, view } = phone;
    if (!adb) throw new UnusableError("The phone is not there any more.");
    const { members, troubles } = await sharedPart(adb, progress);
    const record: CopyRecord = {
      ...newCopy(job, view.serial),
      part: { kind: "shared" },
      name: `${nameOf(view)}, shared storage`,
      size: 0,
      members,
    };
    return { record: { ...record, size: sourceOf(record, adb, "plain").size }, troubles };
  }

  #partition(job: number, { view }: AttachedPhone, name: string) {
    const partition = view.partitions.find((one) => one.name === name);
    if (!partition) throw new UnusableError(`The phone does not let its partition ${name} be read.`);
    const part = { kind: "partition", name, path: partition.path } as const;
    const record: CopyRecord = { ...newCopy(job, view.serial), part, name: `${nameOf(view)}, ${name}`, size: partition.size, members: [] };
    return { record, troubles: [] };
  }

  /** The phone of a record, when it lets the record's part be read now: a raw partition needs the access it was listed with. */
  #reading({ serial, part }: CopyRecord): AttachedPhone | null {
    const phone = this.#bySerial(serial);
    if (!phone?.adb) return null;
    return part.kind === "shared" || phone.view.partitions.some(({ name }) => name === part.name) ? phone : null;
  }

  async lacks(job: number): Promise<string | null> {
    const record = CopyRecordSchema.safeParse(await database.copies.get(job)).data;
    if (!record) return "";
    return this.#reading(record) ? null : record.serial;
  }

  async #source(job: number) {
    const record = CopyRecordSchema.parse(await database.copies.get(job));
    let opened: { readonly adb: unknown; readonly reader: unknown; readonly source: ReturnType<typeof sourceOf> } | null = null;
    const source = lastingSource(record.name, record.size, () => {
      const phone = this.#reading(record);
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

  async backUpApps(id: string, name: string) {
    const adb = this.#phones.get(id)?.adb;
    if (!adb) return GONE;
    const folder = await navigator.storage.getDirectory();
    const handle = await folder.getFileHandle(name, { create: true });
    const stream = await handle.createWritable();
    try {
      const end = await backUpApps(adb, [], (bytes) => stream.write(bytes as Uint8Array<ArrayBuffer>));
      await stream.close();
      return end.ok ? { ok: true as const, file: await handle.getFile() } : end;
    } catch (cause) {
      await stream.abort().catch(() => undefined);
      return { ok: false as const, because: `The backup broke off: ${cause instanceof Error ? cause.message : String(cause)}` };
    }
  }
}

const GONE = { ok: false, because: "The phone is not there any more." } as const;
const newCopy = (job: number, serial: string): Omit<CopyRecord, "part" | "name" | "size" | "members"> => ({
  job,
  serial,
  place: null,
  status: "found",
  mark: { done: 0, hash: null, unreadable: [] },
  sha256: null,
  because: null,
});
const nameOf = ({ report, name }: PhoneView): string => report?.model ?? name;
