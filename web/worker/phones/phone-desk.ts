import { UnusableError } from "../../../core/bytes/source.ts";
import { backUpApps } from "../../../core/phones/adb/app-backup.ts";
import { type EasyLook, lookAtEasyPlaces } from "../../../core/phones/adb/easy-look.ts";
import { fingerprintOf } from "../../../core/phones/adb/keys.ts";
import type { PhoneView } from "../../../core/phones/phone-view.ts";
import type { Outcome } from "../storage/grant.ts";
import { BenchWatch } from "./bench-watch.ts";
import { bringKey, ownKey } from "./key-shelf.ts";
import { PartDesk } from "./part-desk.ts";
import type { CopyPlace, PartFound, PhonePart, PhoneWorker } from "./protocol.ts";

/** Holds every phone on the bench: one for the whole application. */
export class PhoneDesk implements PhoneWorker {
  #notify: (phones: readonly PhoneView[]) => void = () => {};
  readonly #bench = new BenchWatch(() => this.#tell());
  readonly #parts = new PartDesk(this.#bench);

  watch(notify: (phones: readonly PhoneView[]) => void): void {
    this.#notify = notify;
    this.#tell();
  }

  #tell(): void {
    this.#notify(this.#bench.views());
  }

  async fingerprint(): Promise<string> {
    return fingerprintOf(await ownKey());
  }

  async askAgain(id: string): Promise<void> {
    await this.#bench.phones.get(id)?.askAgain();
  }

  async easyLook(id: string): Promise<EasyLook | null> {
    const adb = this.#bench.phones.get(id)?.adb;
    return adb ? lookAtEasyPlaces(adb).catch(() => null) : null;
  }

  async takeElevatedAccess(id: string): Promise<Outcome> {
    return (await this.#bench.phones.get(id)?.takeElevatedAccess()) ?? GONE;
  }

  async giveElevatedBack(id: string): Promise<void> {
    this.#bench.phones.get(id)?.giveElevatedBack();
  }

  async startRecovery(id: string, image: Uint8Array): Promise<Outcome> {
    return (await this.#bench.phones.get(id)?.startRecovery(image)) ?? GONE;
  }

  async repair(id: string, image: Uint8Array, progress: (part: number) => void): Promise<Outcome> {
    return (await this.#bench.phones.get(id)?.repair(image, progress)) ?? GONE;
  }

  async bringKey(text: string, name: string): Promise<Outcome> {
    try {
      await bringKey(text, name);
    } catch (cause) {
      if (cause instanceof UnusableError) return { ok: false, because: cause.message };
      throw cause;
    }
    // Those that were asked in vain are asked with the new key.
    for (const phone of this.#bench.phones.values()) if (phone.view.state === "waiting for the person to allow") void phone.askAgain();
    return { ok: true };
  }

  find(job: number, serial: string, part: PhonePart, progress: (files: number) => void): Promise<PartFound> {
    return this.#parts.find(job, serial, part, progress);
  }
  stopFinding(job: number): void {
    this.#parts.stopFinding(job);
  }
  lacks(medium: number): Promise<string | null> {
    return this.#parts.lacks(medium);
  }
  port(medium: number): Promise<MessagePort> {
    return this.#parts.port(medium);
  }
  copy(medium: number, place: CopyPlace | null, steal = false): Promise<Outcome> {
    return this.#parts.copy(medium, place, steal);
  }
  pauseCopy(medium: number): void {
    this.#parts.pauseCopy(medium);
  }
  stopCopy(medium: number): void {
    this.#parts.stopCopy(medium);
  }

  async backUpApps(id: string, name: string) {
    const adb = this.#bench.phones.get(id)?.adb;
    if (!adb) return GONE;
    const folder = await navigator.storage.getDirectory();
    const handle = await folder.getFileHandle(name, { create: true });
    const stream = await handle.createWritable();
    try {
      const end = await backUpApps(adb, [], (bytes) => stream.write(bytes as Uint8Array<ArrayBuffer>));
      await stream.close();
      return end.ok ? { ok: true as const, file: await handle.getFile(), handle } : end;
    } catch (cause) {
      await stream.abort().catch(() => undefined);
      return { ok: false as const, because: `The backup broke off: ${cause instanceof Error ? cause.message : String(cause)}` };
    }
  }
}

const GONE = { ok: false, because: "The phone is not there any more." } as const;
