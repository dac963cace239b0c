import type { ComputerKey } from "../adb/keys.ts";
import type { PhoneFiles } from "./files.ts";

/** What a practice phone is: invented makers and models only. */
export interface PhoneCard {
  readonly id: string;
  readonly name: string;
  readonly model: string;
  readonly device: string;
  readonly serial: string;
  readonly android: string;
  readonly patched: string;
  readonly encryption: "none" | "block" | "file";
  readonly rooted: boolean;
  readonly battery: number;
  /** Where it stands when it is attached. */
  readonly mode: "system" | "bootloader";
  readonly bootloaderUnlocked: boolean;
}

/** A practice phone: its card, its files, and the person before it. */
export class PracticePhone {
  readonly card: PhoneCard;
  readonly files: PhoneFiles;
  /** Keys of computers that it lets in without asking. */
  readonly allowed: ComputerKey[] = [];
  /** SHA-256 of the image it was started with for this once, or null. */
  started: string | null = null;
  readonly #answer: (key: ComputerKey) => Promise<boolean>;

  /** `answer` is the person: does this computer get in? */
  constructor(card: PhoneCard, files: PhoneFiles, answer: (key: ComputerKey) => Promise<boolean>) {
    this.card = card;
    this.files = files;
    this.#answer = answer;
  }

  /** Puts the question on the screen. */
  async ask(key: ComputerKey): Promise<boolean> {
    const yes = await this.#answer(key);
    if (yes) this.allowed.push(key);
    return yes;
  }

  /** What the bootloader tells of itself (AOSP, fastboot README, "Client variables"). */
  bootloaderVariables(): Map<string, string> {
    const { card } = this;
    return new Map([
      ["version", "0.4"],
      ["product", card.device],
      ["serialno", card.serial],
      ["secure", "yes"],
      ["unlocked", card.bootloaderUnlocked ? "yes" : "no"],
      ["is-userspace", "no"],
      ["max-download-size", "0x04000000"],
    ]);
  }

  /** System properties, by the names that phones really use. */
  properties(): Map<string, string> {
    const { card } = this;
    return new Map([
      ["ro.product.manufacturer", "Corvane"],
      ["ro.product.model", card.model],
      ["ro.product.name", card.name],
      ["ro.product.device", card.device],
      ["ro.serialno", card.serial],
      ["ro.build.version.release", card.android],
      ["ro.build.version.security_patch", card.patched],
      ["ro.crypto.state", card.encryption === "none" ? "unencrypted" : "encrypted"],
      ...(card.encryption === "none" ? [] : [["ro.crypto.type", card.encryption] as const]),
    ]);
  }
}
