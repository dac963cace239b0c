import type { ModelCard } from "../../core/phones/model-cards.ts";

/** Where a phone stands. stuck: it shows its maker's name and never comes further. */
export type PhoneMode = "off" | "stuck" | "system" | "recovery" | "bootloader" | "download";

/** What a practice phone is, and how it lies on the bench at first. Invented makers and models only. */
export interface PhoneCard {
  readonly id: string;
  /** In a few words, for lists. */
  readonly state: string;
  /** What its owner says. */
  readonly story: string;
  readonly card: ModelCard;
  /** Its name inside the system. */
  readonly device: string;
  readonly serial: string;
  readonly android: string;
  readonly patched: string;
  readonly build: string;
  readonly encryption: "none" | "block" | "file";
  readonly battery: number;
  readonly mode: PhoneMode;
  readonly picture: boolean;
  readonly touch: boolean;
  /** Null: it is not locked. */
  readonly code: string | null;
  readonly debugging: boolean;
  /** Is its owner's computer allowed already? */
  readonly knowsOwner: boolean;
  readonly rooted: boolean;
  readonly bootloaderUnlocked: boolean;
  readonly customRecovery: boolean;
  /** The system is broken until it is repaired. */
  readonly brokenSystem: boolean;
  /** Bytes after which the cable slips out, once. */
  readonly slipsAfter: number | null;
  /** What lies behind it: its own storage by name, or the theatre's card for those that were never given one. */
  readonly storage: "theatre card" | "ext4" | "ext4, trimmed" | "ext4, encrypted" | "f2fs";
  /** Does its owner know the code that is asked for? */
  readonly codeKnown: boolean;
}
