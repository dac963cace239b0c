import type { EasyLook } from "../../../core/phones/adb/easy-look.ts";
import type { PhoneView } from "../../../core/phones/phone-view.ts";
import type { Outcome } from "../storage/grant.ts";

/** What the screens and the worker that holds the phones say to each other. */

/** What of a phone is taken as a source. */
export type PhonePart = { readonly kind: "people" } | { readonly kind: "shared" } | { readonly kind: "partition"; readonly name: string };

/** Where a working copy is kept: the browser's own storage, or a file that was chosen. */
export type CopyPlace = { readonly kind: "browser" } | { readonly kind: "file"; readonly handle: FileSystemFileHandle };

/** A part that was found is a medium of its ticket from then on. `isCopied`: it is here already, and can be read. */
export type PartFound =
  | { readonly ok: true; readonly medium: number; readonly isCopied: boolean; readonly troubles: readonly string[] }
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
  /**
   * Lists what of a phone is to be read, and makes it a medium of a ticket: its layout must not change any more. People's data are taken at once.
   * `progress` hears how many files or rows are known so far.
   */
  find(job: number, serial: string, part: PhonePart, progress: (known: number) => void): Promise<PartFound>;
  /** Ends the listing that a ticket waits for. */
  stopFinding(job: number): void;
  /** The serial of the phone that a medium's part cannot be read from now, or null when it can. */
  lacks(medium: number): Promise<string | null>;
  /** A port that answers reads of a found part, whenever the phone is there. */
  port(medium: number): Promise<MessagePort>;
  /** Begins a working copy, or goes on with one. */
  copy(medium: number, place: CopyPlace | null, steal?: boolean): Promise<Outcome>;
  pauseCopy(medium: number): void;
  stopCopy(medium: number): void;
  /** An app backup into the browser's storage, under this name; the phone asks its owner. */
  backUpApps(
    id: string,
    name: string,
  ): Promise<
    { readonly ok: true; readonly file: File; readonly handle: FileSystemFileHandle } | { readonly ok: false; readonly because: string }
  >;
}
