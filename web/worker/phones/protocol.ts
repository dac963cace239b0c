import type { EasyLook } from "../../../core/phones/adb/easy-look.ts";
import type { Partition } from "../../../core/phones/adb/partitions.ts";
import type { PhoneReport } from "../../../core/phones/adb/phone-report.ts";
import type { Identity } from "../../../core/phones/download-mode.ts";
import type { BootloaderReport } from "../../../core/phones/fastboot.ts";
import type { Seen } from "../../../core/phones/seen.ts";
import type { CopyRecord } from "../../kept/copy.ts";
import type { Outcome } from "../protocol.ts";

/** What the screens and the worker that holds the phones say to each other. */

/** A phone on the bench, as it stands now. */
export interface PhoneView extends Seen {
  /** Stays the same while it is attached. */
  readonly id: string;
  /** What to call it before it told its model. */
  readonly name: string;
  readonly way: "practice" | "USB" | "adb server";
  /** When it came into this state, in milliseconds since 1970. */
  readonly since: number;
  /** What went wrong last, in plain words. */
  readonly problem: string | null;
  readonly report: PhoneReport | null;
  readonly bootloader: Pick<BootloaderReport, "product" | "unlocked"> | null;
  readonly download: Identity | null;
  /** Raw partitions, where they can be read. */
  readonly partitions: readonly Partition[];
}

/** What of a phone is taken as a source. */
export type PhonePart = { readonly kind: "shared" } | { readonly kind: "partition"; readonly name: string };

/** Where a working copy is kept: the browser's own storage, or a file that was chosen. */
export type CopyPlace = { readonly kind: "browser" } | { readonly kind: "file"; readonly handle: FileSystemFileHandle };

export type PartFound =
  | { readonly ok: true; readonly name: string; readonly size: number; readonly files: number | null; readonly troubles: readonly string[] }
  | { readonly ok: false; readonly because: string };

export interface PhoneWorker {
  /** Begins to watch what is plugged in; every change of any phone is told. */
  watch(notify: (phones: readonly PhoneView[]) => void): void;
  /** Fingerprint of this computer's own key, as phones show it. */
  fingerprint(): Promise<string>;
  /** Hangs up and introduces this computer again. */
  askAgain(id: string): Promise<void>;
  /** Looks into bins and the address book of a phone that is ready; null when it went away. */
  easyLook(id: string): Promise<EasyLook | null>;
  takeElevatedAccess(id: string): Promise<Outcome>;
  /** Lets go of elevated access. */
  giveElevatedBack(id: string): Promise<void>;
  startRecovery(id: string, image: Uint8Array): Promise<Outcome>;
  repair(id: string, image: Uint8Array, progress: (part: number) => void): Promise<Outcome>;
  /** Brings a saved key; phones that know it let this computer in from now on. */
  bringKey(text: string, name: string): Promise<Outcome>;
  /** Lists what of a phone is to be read, for one job, and keeps the list: its layout must not change any more. */
  find(job: number, serial: string, part: PhonePart, progress: (files: number) => void): Promise<PartFound>;
  /** Ends the listing that a job waits for. */
  stopFinding(job: number): void;
  /** The serial of the phone that a job's part cannot be read from now, or null when it can. */
  lacks(job: number): Promise<string | null>;
  /** A port that answers reads of a found part, whenever the phone is there. */
  port(job: number): Promise<MessagePort>;
  /** Begins a working copy, or goes on with one. */
  copy(job: number, place: CopyPlace | null, notify: (record: CopyRecord) => void): Promise<Outcome>;
  stopCopy(job: number): void;
  /** An app backup into the browser's storage; the phone asks its owner. */
  backUpApps(
    id: string,
    name: string,
  ): Promise<{ readonly ok: true; readonly file: File } | { readonly ok: false; readonly because: string }>;
}
