import type { Adb, AdbDaemonConnection } from "@yume-chan/adb";
import { portableSha256 } from "../bytes/hash.ts";
import { UnusableError } from "../bytes/source.ts";
import { introduce } from "./adb/connection.ts";
import { type ComputerKey, fingerprintOf, keyRing } from "./adb/keys.ts";
import { partitionsOf, takeElevatedAccess } from "./adb/partitions.ts";
import type { Reader } from "./adb/phone-file-source.ts";
import { batteryOf, reportOf } from "./adb/phone-report.ts";
import type { BytePipe } from "./byte-pipe.ts";
import { DownloadMode } from "./download-mode.ts";
import { Bootloader } from "./fastboot.ts";
import { identityOf, type PhoneIdentity } from "./identity.ts";
import type { PhoneView } from "./phone-view.ts";

/** A debugging daemon before it knows this computer: its packets are locked while it is asked, so hanging up is a way of its own. */
export interface Daemon {
  readonly connection: AdbDaemonConnection;
  readonly hangUp: () => void;
}

/** How a phone can be spoken to now. mute: something is attached, and nothing of it answers. */
export type Line =
  | { readonly kind: "none" | "mute" | "asking" | "offline" }
  | { readonly kind: "daemon"; readonly open: () => Promise<Daemon> }
  | { readonly kind: "served"; readonly open: () => Promise<Adb> }
  | { readonly kind: "fastboot" | "download"; readonly open: () => Promise<BytePipe> };

/** What a phone says only while it is spoken to in one mode. */
const SILENT: Pick<PhoneView, "report" | "bootloader" | "download" | "partitions" | "elevated"> = {
  report: null,
  bootloader: null,
  download: null,
  partitions: [],
  elevated: false,
};

/** Milliseconds before a line that broke is tried again by itself. */
const TRY_AGAIN = 1500;
/** Milliseconds that a phone has to tell what it is. */
const PATIENCE_MS = 20_000;
/** Milliseconds between looks at the battery. */
const BATTERY_EVERY = 4000;

/** What came of something that was asked of a phone. */
export type Answered = { readonly ok: true } | { readonly ok: false; readonly because: string };

/** What a phone is spoken to with: the keys that it may know, and the time in milliseconds since 1970. */
export interface Speaker {
  keys(): Promise<ComputerKey[]>;
  now(): number;
}

const isBrought = (key: ComputerKey | null): boolean => key?.origin === "brought";

/** One phone, spoken to in whatever mode it is. Every change of what is known of it is told. */
export class AttachedPhone {
  #view: PhoneView;
  readonly #tell: () => void;
  readonly #speaker: Speaker;
  #line: Line = { kind: "none" };
  #adb: Adb | null = null;
  /** Fingerprint of the key that it let this computer in by. */
  #key: string | null = null;
  #other: Bootloader | DownloadMode | null = null;
  /** Grows with every attempt: what an older one still brings is not heard. */
  #attempt = 0;
  #hangUp: () => void = () => {};
  #brokenAt = 0;
  #batteryAt = 0;

  constructor(id: string, name: string, way: PhoneView["way"], serial: string, speaker: Speaker, tell: () => void) {
    this.#tell = tell;
    this.#speaker = speaker;
    this.#view = {
      id,
      name,
      way,
      serial,
      state: "nothing attached",
      since: this.#speaker.now(),
      asked: false,
      recoveryStarted: false,
      repaired: [],
      problem: null,
      ...SILENT,
    };
  }

  get view(): PhoneView {
    return this.#view;
  }
  /** The conversation with its debugging daemon, where there is one. */
  get adb(): Adb | null {
    return this.#adb;
  }
  /** What it is known by, once it told what it is. */
  get identity(): PhoneIdentity | null {
    const { report, serial } = this.#view;
    return report && identityOf(report, serial, this.#key);
  }
  get reader(): Reader {
    return this.#view.elevated && this.#view.report?.root !== "is root" ? "su" : "plain";
  }

  #change(change: Partial<PhoneView>): void {
    const moved = change.state !== undefined && change.state !== this.#view.state;
    this.#view = { ...this.#view, ...change, ...(moved && { since: this.#speaker.now() }) };
    this.#tell();
  }

  /** Told what the cable shows now, again and again. A line of the same kind is left alone while it holds. */
  cable(line: Line): void {
    const same = line.kind === this.#line.kind;
    if (same && (this.#attempt > 0 || !("open" in line)) && !this.#broken()) {
      void this.#lookAtBattery();
      return;
    }
    this.#line = line;
    void this.#speak();
  }

  async #lookAtBattery(): Promise<void> {
    const adb = this.#adb;
    if (!adb || !this.#view.report || this.#speaker.now() - this.#batteryAt < BATTERY_EVERY) return;
    this.#batteryAt = this.#speaker.now();
    const battery = await batteryOf(adb).catch(() => null);
    const { report } = this.#view;
    if (battery && report && adb === this.#adb && battery.battery !== report.battery) this.#change({ report: { ...report, ...battery } });
  }

  #broken(): boolean {
    return this.#brokenAt > 0 && this.#speaker.now() - this.#brokenAt > TRY_AGAIN;
  }

  async askAgain(): Promise<void> {
    await this.#speak();
  }

  async #speak(): Promise<void> {
    const attempt = ++this.#attempt;
    this.#brokenAt = 0;
    this.#hangUp();
    this.#hangUp = () => {};
    this.#adb = null;
    this.#key = null;
    this.#other = null;
    const line = this.#line;
    const mine = () => attempt === this.#attempt;
    try {
      switch (line.kind) {
        case "none":
          this.#change({ ...SILENT, state: "nothing attached", asked: false, problem: null });
          return;
        case "mute":
          this.#change({ ...SILENT, state: "attached, not answering", asked: false, recoveryStarted: false, problem: null });
          return;
        case "asking":
          this.#change({ ...SILENT, state: "waiting for the person to allow", asked: true, problem: null });
          return;
        case "offline":
          this.#change({ ...SILENT, state: "offline", problem: null });
          return;
        case "daemon":
          await this.#enter(await this.#introduce(line.open, mine), mine);
          return;
        case "served":
          await this.#enter(await line.open(), mine);
          return;
        case "fastboot":
          await this.#greetBootloader(await line.open(), mine);
          return;
        case "download":
          await this.#greetDownload(await line.open(), mine);
      }
    } catch (cause) {
      if (!mine()) return;
      this.#brokenAt = this.#speaker.now();
      this.#change({ ...SILENT, state: "attached, not answering", problem: reason(cause) });
    }
  }

  async #introduce(open: () => Promise<Daemon>, mine: () => boolean): Promise<Adb> {
    const { connection, hangUp } = await open();
    this.#hangUp = hangUp;
    let tried: ComputerKey | null = null;
    const ring = keyRing(await this.#speaker.keys(), (key) => {
      tried = key;
    });
    const adb = await introduce(this.#view.serial, connection, ring, () => {
      if (mine()) this.#change({ ...SILENT, state: "waiting for the person to allow", asked: true, problem: null });
    });
    if (mine()) this.#key = tried && (await fingerprintOf(tried));
    // Let in by the key of its owner's computer: nobody allowed this one, whatever was asked before.
    if (mine() && isBrought(tried)) this.#change({ asked: false });
    return adb;
  }

  async #enter(adb: Adb, mine: () => boolean): Promise<void> {
    if (!mine()) {
      await adb.close();
      return;
    }
    this.#adb = adb;
    this.#hangUp = () => void adb.close().catch(() => undefined);
    const gone = () => {
      if (!mine()) return;
      this.#adb = null;
      this.#brokenAt = this.#speaker.now();
      this.#change({ ...SILENT, state: "offline", problem: "The connection ended." });
    };
    adb.disconnected.then(gone, gone);
    const report = await inTime(reportOf(adb));
    if (!mine()) return;
    const partitions = report.root === "is root" ? await partitionsOf(adb, "plain") : [];
    if (!mine()) return;
    this.#change({
      ...SILENT,
      report,
      partitions,
      serial: report.serial ?? this.#view.serial,
      state: report.recovery ? "in recovery" : "ready",
      problem: null,
      ...(!report.recovery && { recoveryStarted: false }),
    });
  }

  async #greetBootloader(pipe: BytePipe, mine: () => boolean): Promise<void> {
    this.#hangUp = () => pipe.close();
    const bootloader = await Bootloader.greet(pipe);
    const { product, unlocked } = await bootloader.report();
    if (!mine()) return;
    this.#other = bootloader;
    this.#change({ ...SILENT, state: "in bootloader", asked: false, bootloader: { product, unlocked }, problem: null });
  }

  async #greetDownload(pipe: BytePipe, mine: () => boolean): Promise<void> {
    this.#hangUp = () => pipe.close();
    const mode = new DownloadMode(pipe);
    const download = await mode.identify();
    if (!mine()) return;
    this.#other = mode;
    this.#change({ ...SILENT, state: "in download mode", asked: false, download, problem: null });
  }

  async takeElevatedAccess(): Promise<Answered> {
    const adb = this.#adb;
    if (!adb) return NOT_THERE;
    try {
      if (!(await takeElevatedAccess(adb)))
        return { ok: false, because: "The phone did not give elevated access: its question was refused." };
      this.#change({ elevated: true, partitions: await partitionsOf(adb, "su") });
      return { ok: true };
    } catch (cause) {
      return { ok: false, because: reason(cause) };
    }
  }

  giveElevatedBack(): void {
    this.#change({ elevated: false, partitions: [] });
  }

  async startRecovery(image: Uint8Array): Promise<Answered> {
    if (!(this.#other instanceof Bootloader)) return NOT_THERE;
    try {
      await this.#other.start(image, () => {});
      this.#change({ recoveryStarted: true });
      return { ok: true };
    } catch (cause) {
      return { ok: false, because: reason(cause) };
    }
  }

  async repair(image: Uint8Array, progress: (part: number) => void): Promise<Answered> {
    if (!(this.#other instanceof DownloadMode)) return NOT_THERE;
    try {
      const repaired = await this.#other.repair(image, await portableSha256(), (sent, total) => progress(sent / total));
      this.#change({ repaired });
      this.#other.restart();
      return { ok: true };
    } catch (cause) {
      return { ok: false, because: reason(cause) };
    }
  }
}

/** A phone that lets this computer in and then says nothing is not waited for silently. */
function inTime<T>(answer: Promise<T>): Promise<T> {
  return new Promise((resolve, reject) => {
    const late = setTimeout(
      () => reject(new UnusableError("The phone let this computer in, and then did not tell what it is.")),
      PATIENCE_MS,
    );
    answer.then(resolve, reject).finally(() => clearTimeout(late));
  });
}

const NOT_THERE: Answered = { ok: false, because: "The phone is not there any more: look at the cable and its mode." };
const reason = (cause: unknown): string =>
  cause instanceof UnusableError ? cause.message : `The phone does not answer: ${cause instanceof Error ? cause.message : String(cause)}.`;
