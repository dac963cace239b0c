import { EventEmitter } from "node:events";
import { MODES, type PhoneKey } from "../../core/phones/model-cards.ts";
import type { ComputerKey } from "../adb/keys.ts";
import type { PhoneFiles } from "./files.ts";
import type { Rows } from "./people.ts";
import type { PhoneCard, PhoneMode } from "./phone-card.ts";

/** What a computer at the other end of the cable sees. mute: something is attached, and does not answer. */
export type Usb = "none" | "mute" | "adb" | "fastboot" | "download";

/** A question on the screen, and whoever waits for its answer. */
export interface Question {
  readonly kind: "computer" | "root" | "backup";
  /** Shown beside it: the computer's fingerprint. */
  readonly about: string;
  readonly answer: (yes: boolean) => void;
}

export type Page = "home" | "settings" | "about" | "developer" | "confirm debugging";

/** Taps on the build number until Developer options show (from Android 4.2 on). */
const TAPS = 7;
const CHARGED = 60;

/** A practice phone: a small state machine with a screen, keys, a cable, and files that nothing writes. */
export class PracticePhone {
  readonly card: PhoneCard;
  readonly files: PhoneFiles;
  /** Tells of every change. */
  readonly changes = new EventEmitter().setMaxListeners(0);
  /** What its providers tell, by address, where it is not what all practice phones tell. */
  people: Readonly<Record<string, Rows>> | undefined;
  /** Keys of computers that it lets in without asking. */
  readonly allowed: ComputerKey[] = [];
  mode: PhoneMode;
  page: Page = "home";
  locked: boolean;
  /** Digits of the code so far. */
  typed = "";
  taps = 0;
  developer: boolean;
  debugging: boolean;
  cable = false;
  mouse = false;
  battery: number;
  question: Question | null = null;
  /** Elevated access was allowed. */
  rootAllowed = false;
  /** Waiting for the key that accepts download mode. */
  accepting = false;
  /** A recovery that was started for this once. */
  startedRecovery: Uint8Array | null = null;
  repaired: string[] = [];
  #slips: number | null;
  /** Somebody who answers every question with yes, without looking. */
  readonly #willing: boolean;
  readonly #owner: ComputerKey | null;

  /** `owner`: the computer that its owner used before. `willing`: every question is answered with yes. */
  constructor(card: PhoneCard, files: PhoneFiles, owner: ComputerKey | null, willing: boolean) {
    this.card = card;
    this.files = files;
    this.#owner = owner;
    this.#willing = willing;
    this.mode = card.mode;
    this.locked = card.code !== null;
    this.debugging = card.debugging;
    this.developer = card.debugging;
    this.battery = card.battery;
    this.#slips = card.slipsAfter;
    if (owner && card.knowsOwner) this.allowed.push(owner);
  }

  #changed(): void {
    this.changes.emit("change");
  }

  get usb(): Usb {
    if (!this.cable || this.mode === "off") return "none";
    if (this.mode === "system") return this.debugging ? "adb" : "mute";
    if (this.mode === "recovery") return this.card.customRecovery || this.startedRecovery ? "adb" : "mute";
    if (this.mode === "bootloader") return "fastboot";
    return this.mode === "download" ? "download" : "mute";
  }

  /** In recovery there is nobody to ask, and the shell has every right. */
  get asksComputers(): boolean {
    return this.mode !== "recovery";
  }

  plug(cable: boolean): void {
    this.cable = cable;
    if (!cable) this.#dropQuestion();
    this.#changed();
  }

  plugMouse(mouse: boolean): void {
    this.mouse = mouse;
    this.#changed();
  }

  charge(): void {
    this.battery = Math.max(this.battery, CHARGED);
    this.#changed();
  }

  /** Bytes went over the cable: on a worn socket it slips out once. */
  carried(bytes: number): void {
    if (this.#slips === null) return;
    this.#slips -= bytes;
    if (this.#slips > 0) return;
    this.#slips = null;
    this.plug(false);
  }

  /** Keys held together until something happens. */
  hold(keys: readonly PhoneKey[]): void {
    const held = (...wanted: readonly PhoneKey[]) => wanted.length === keys.length && wanted.every((key) => keys.includes(key));
    const { modes } = this.card.card;
    if (this.accepting) {
      this.accepting = false;
      if (modes.download?.accept && held(modes.download.accept)) this.#enter("download");
      else this.#enter("off");
    } else if (this.mode !== "off") {
      if (held("power")) this.#enter("off");
    } else if (held("power")) this.#start();
    else if (modes.download && held(...modes.download.hold)) {
      if (modes.download.accept) this.accepting = true;
      else this.#enter("download");
    } else if (modes.bootloader && held(...modes.bootloader.hold)) this.#enter("bootloader");
    else if (modes.recovery && held(...modes.recovery.hold)) this.#enter("recovery");
    this.#changed();
  }

  #start(): void {
    this.#enter(this.card.brokenSystem && this.repaired.length === 0 ? "stuck" : "system");
  }

  #enter(mode: PhoneMode): void {
    this.mode = mode;
    this.page = "home";
    this.locked = this.card.code !== null;
    this.typed = "";
    this.startedRecovery = null;
    this.rootAllowed = false;
    this.#dropQuestion();
  }

  /** Starts as a program asks for it: into a mode that this model has, or else the usual way. */
  restart(into = ""): void {
    const mode = MODES.find((one) => one === into);
    if (mode && this.card.card.modes[mode]) this.#enter(mode);
    else this.#start();
    this.#changed();
  }

  /** Starts a recovery for this once: nothing of it stays. */
  startRecovery(image: Uint8Array): void {
    this.#enter("recovery");
    this.startedRecovery = image;
    this.#changed();
  }

  noteRepaired(partition: string): void {
    this.repaired.push(partition);
    this.#changed();
  }

  /** Does a touch reach anything? With a dead screen nobody sees where. */
  get answersTouch(): boolean {
    return this.card.picture && (this.card.touch || this.mouse);
  }

  /** A tap on a button of the screen, by its id. Dead areas do not answer. */
  tap(button: string): void {
    if (!this.answersTouch || this.mode !== "system") return;
    if (this.locked) this.#type(button);
    else if (this.question) this.#answerQuestion(button === "yes");
    else this.#press(button);
    this.#changed();
  }

  #type(digit: string): void {
    const { code } = this.card;
    if (!code || !/^\d$/.test(digit)) return;
    this.typed += digit;
    if (this.typed.length < code.length) return;
    this.locked = this.typed !== code;
    this.typed = "";
  }

  #press(button: string): void {
    if (button === "build" && this.page === "about") {
      this.taps++;
      this.developer ||= this.taps >= TAPS;
    } else if (button === "debugging" && this.page === "developer") {
      if (this.debugging) this.debugging = false;
      else this.page = "confirm debugging";
    } else if (button === "hide" && this.page === "developer") {
      // The main switch: with the options everything in them goes.
      this.developer = false;
      this.debugging = false;
      this.taps = 0;
      this.page = "settings";
    } else if (button === "revoke" && this.page === "developer") this.allowed.length = 0;
    else if (this.page === "confirm debugging") {
      if (button === "yes") this.debugging = true;
      this.page = "developer";
    } else if (button === "home" || button === "settings" || button === "about" || (button === "developer" && this.developer))
      this.page = button;
  }

  /** Puts a question on the screen and waits. One at a time: a newer one takes the place of an older one. */
  ask(kind: Question["kind"], about: string): Promise<boolean> {
    if (this.#willing) return Promise.resolve(true);
    this.#dropQuestion();
    return new Promise((resolve) => {
      this.question = { kind, about, answer: resolve };
      this.#changed();
    });
  }

  #answerQuestion(yes: boolean): void {
    const { question } = this;
    this.question = null;
    question?.answer(yes);
  }

  #dropQuestion(): void {
    this.#answerQuestion(false);
  }

  /** Does this computer get in? The phone remembers a yes. */
  async admits(key: ComputerKey): Promise<boolean> {
    const yes = await this.ask("computer", key.fingerprint);
    if (yes) this.allowed.push(key);
    return yes;
  }

  /** Lies on the bench as at first; the cable stays where it is. */
  reset(): void {
    this.#enter(this.card.mode);
    this.accepting = false;
    this.debugging = this.card.debugging;
    this.developer = this.card.debugging;
    this.taps = 0;
    this.battery = this.card.battery;
    this.mouse = false;
    this.repaired = [];
    this.#slips = this.card.slipsAfter;
    this.allowed.length = 0;
    if (this.#owner && this.card.knowsOwner) this.allowed.push(this.#owner);
    this.plug(false);
  }
}
