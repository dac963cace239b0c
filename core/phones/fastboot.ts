import { UnusableError } from "../bytes/source.ts";
import type { BytePipe } from "./byte-pipe.ts";
import { PieceQueue } from "./piece-queue.ts";

/**
 * The bootloader's protocol over TCP, as the Android Open Source Project publishes it (system/core/fastboot, README.md):
 * both sides say "FB01", then every message has its length before it, 8 bytes, big-endian. Only what reads and what
 * starts for once is here: there is no word for flash, erase or unlock.
 */
const HANDSHAKE = "FB01";
const LENGTH_BYTES = 8;
const MAX_ANSWER = 256;
const PIECE = 1024 * 1024;
/** How every boot image begins (AOSP, bootimg.h). */
const BOOT_MAGIC = "ANDROID!";

export interface BootloaderReport {
  readonly product: string | null;
  readonly serial: string | null;
  /** Null: it did not tell. */
  readonly unlocked: boolean | null;
  readonly variables: ReadonlyMap<string, string>;
}

const letters = (text: string): Uint8Array => Uint8Array.from(text, (letter) => letter.charCodeAt(0));
const textOf = (bytes: Uint8Array): string => String.fromCharCode(...bytes);

export class Bootloader {
  readonly #pipe: BytePipe;
  readonly #arriving: PieceQueue;

  private constructor(pipe: BytePipe, arriving: PieceQueue) {
    this.#pipe = pipe;
    this.#arriving = arriving;
  }

  /** @throws UnusableError when the other side does not speak this protocol */
  static async greet(pipe: BytePipe): Promise<Bootloader> {
    const arriving = new PieceQueue(pipe);
    pipe.send(letters(HANDSHAKE));
    const greeting = textOf(await arriving.exactly(HANDSHAKE.length));
    if (!/^FB\d\d$/.test(greeting)) throw new UnusableError("What is attached does not answer as a bootloader.");
    return new Bootloader(pipe, arriving);
  }

  #say(message: Uint8Array): void {
    const head = new Uint8Array(LENGTH_BYTES);
    new DataView(head.buffer).setBigUint64(0, BigInt(message.length));
    this.#pipe.send(head);
    this.#pipe.send(message);
  }

  async #hear(): Promise<{ kind: string; words: string }> {
    const head = await this.#arriving.exactly(LENGTH_BYTES);
    const length = Number(new DataView(head.buffer, head.byteOffset).getBigUint64(0));
    if (length < 4 || length > MAX_ANSWER) throw new UnusableError("The bootloader answers with something that is no answer.");
    const message = textOf(await this.#arriving.exactly(length));
    return { kind: message.slice(0, 4), words: message.slice(4) };
  }

  /** Says a command and hears its answer; lines of information on the way go to `told`. @throws UnusableError for a refusal */
  async #ask(command: string | Uint8Array, told: (line: string) => void = () => {}): Promise<{ kind: string; words: string }> {
    this.#say(typeof command === "string" ? letters(command) : command);
    for (let lines = 0; lines < 1000; lines++) {
      const answer = await this.#hear();
      if (answer.kind === "OKAY" || answer.kind === "DATA") return answer;
      if (answer.kind === "FAIL") throw new UnusableError(`The bootloader refuses: ${answer.words}.`);
      told(answer.words);
    }
    throw new UnusableError("The bootloader does not come to an end.");
  }

  /** What it says of itself: the variables of `getvar all`. */
  async report(): Promise<BootloaderReport> {
    const variables = new Map<string, string>();
    await this.#ask("getvar:all", (line) => {
      const colon = line.lastIndexOf(":");
      if (colon > 0) variables.set(line.slice(0, colon).trim(), line.slice(colon + 1).trim());
    });
    const unlocked = variables.get("unlocked");
    return {
      product: variables.get("product") ?? null,
      serial: variables.get("serialno") ?? null,
      unlocked: unlocked === undefined ? null : unlocked === "yes",
      variables,
    };
  }

  /**
   * Starts an image for this once; nothing is written, and the next start is the usual one.
   * @throws UnusableError for what is no boot image, and when the bootloader is locked
   */
  async start(image: Uint8Array, progress: (sent: number) => void): Promise<void> {
    if (textOf(image.subarray(0, BOOT_MAGIC.length)) !== BOOT_MAGIC)
      throw new UnusableError("This file is no recovery image: it does not begin as a boot image.");
    const size = image.length.toString(16).padStart(8, "0");
    await this.#ask(`download:${size}`);
    for (let at = 0; at < image.length; at += PIECE) {
      const piece = image.subarray(at, at + PIECE);
      this.#say(piece);
      progress(at + piece.length);
    }
    const taken = await this.#hear();
    if (taken.kind !== "OKAY") throw new UnusableError(`The bootloader refuses: ${taken.words}.`);
    await this.#ask("boot");
  }

  close(): void {
    this.#pipe.close();
  }
}
