import { createServer, type Socket } from "node:net";
import { holdToCable } from "../cable.ts";
import { type Listening, listening } from "../listening.ts";
import type { PracticePhone } from "../phone/practice-phone.ts";
import { bootloaderVariables } from "../phone/told.ts";

/**
 * The bootloader's protocol over TCP, as the Android Open Source Project publishes it (system/core/fastboot, README.md):
 * both sides say "FB01", then every message has its length before it, 8 bytes, big-endian.
 */
const HANDSHAKE = "FB01";
const LENGTH_BYTES = 8;
/** A command has at most this many bytes, and an answer too. */
const MAX_COMMAND = 64;
const MAX_ANSWER = 256;
/** Largest image that is taken: what a recovery needs. */
const MAX_DOWNLOAD = 64 * 1024 * 1024;
/** How every boot image begins (AOSP, bootimg.h). */
const BOOT_MAGIC = "ANDROID!";

/** One computer's conversation with a phone in bootloader mode. */
class Conversation {
  readonly #socket: Socket;
  readonly #phone: PracticePhone;
  #arrived = Buffer.alloc(0);
  #greeted = false;
  /** Bytes of an image that are still to come. */
  #expected = 0;
  #parts: Buffer[] = [];
  #image: Buffer | null = null;

  constructor(socket: Socket, phone: PracticePhone) {
    this.#socket = socket;
    this.#phone = phone;
    // What was said last still arrives.
    if (!holdToCable(socket, phone, "fastboot", () => socket.end())) return;
    socket.on("data", (piece) => {
      this.#arrived = Buffer.concat([this.#arrived, piece]);
      this.#read();
    });
    socket.write(HANDSHAKE);
  }

  #read(): void {
    if (!this.#greeted) {
      if (this.#arrived.length < HANDSHAKE.length) return;
      if (!/^FB\d\d$/.test(this.#arrived.toString("latin1", 0, HANDSHAKE.length))) {
        this.#socket.destroy();
        return;
      }
      this.#greeted = true;
      this.#arrived = this.#arrived.subarray(HANDSHAKE.length);
    }
    while (this.#arrived.length >= LENGTH_BYTES) {
      const length = Number(this.#arrived.readBigUInt64BE(0));
      if (length > (this.#expected > 0 ? this.#expected : MAX_COMMAND)) {
        this.#answer("FAIL", "the message is too long");
        this.#socket.end();
        return;
      }
      if (this.#arrived.length < LENGTH_BYTES + length) return;
      const message = this.#arrived.subarray(LENGTH_BYTES, LENGTH_BYTES + length);
      this.#arrived = this.#arrived.subarray(LENGTH_BYTES + length);
      if (this.#expected > 0) this.#takeImage(message);
      else this.#obey(message.toString("latin1"));
    }
  }

  #answer(kind: "OKAY" | "FAIL" | "INFO" | "DATA", words = ""): void {
    const message = Buffer.from(kind + words, "latin1").subarray(0, MAX_ANSWER);
    const head = Buffer.alloc(LENGTH_BYTES);
    head.writeBigUInt64BE(BigInt(message.length));
    this.#socket.write(Buffer.concat([head, message]));
  }

  #takeImage(piece: Buffer): void {
    this.#parts.push(Buffer.from(piece));
    this.#expected -= piece.length;
    if (this.#expected > 0) return;
    this.#image = Buffer.concat(this.#parts);
    this.#parts = [];
    this.#answer("OKAY");
  }

  #obey(command: string): void {
    const [name, ...rest] = command.split(":");
    const value = rest.join(":");
    if (name === "getvar") this.#tell(value);
    else if (name === "download") this.#download(value);
    else if (name === "boot") this.#boot();
    else if (name === "reboot" || name === "continue") {
      this.#answer("OKAY");
      this.#phone.restart();
    } else if (/^(flashing|oem)\b/.test(command)) {
      this.#answer("FAIL", "unlocking would wipe the phone: never to recover data");
    } else if (name === "flash" || name === "erase") {
      this.#answer("FAIL", "nothing is ever written here");
    } else this.#answer("FAIL", "unknown command");
  }

  #tell(variable: string): void {
    const variables = bootloaderVariables(this.#phone);
    if (variable === "all") {
      for (const [name, value] of variables) this.#answer("INFO", `${name}:${value}`);
      this.#answer("OKAY");
    } else if (variables.has(variable)) this.#answer("OKAY", variables.get(variable));
    else this.#answer("FAIL", "unknown variable");
  }

  #download(size: string): void {
    const bytes = /^[0-9a-f]{8}$/i.test(size) ? Number.parseInt(size, 16) : 0;
    if (bytes === 0 || bytes > MAX_DOWNLOAD) {
      this.#answer("FAIL", "the image is too large");
      return;
    }
    this.#expected = bytes;
    this.#answer("DATA", size);
  }

  /** Starts what was sent, for this once: nothing is written. */
  #boot(): void {
    if (!this.#phone.card.bootloaderUnlocked) this.#answer("FAIL", "the bootloader is locked");
    else if (!this.#image) this.#answer("FAIL", "no image was sent");
    else if (this.#image.toString("latin1", 0, BOOT_MAGIC.length) !== BOOT_MAGIC) this.#answer("FAIL", "this is no boot image");
    else {
      this.#answer("OKAY");
      this.#phone.startRecovery(this.#image);
    }
  }
}

/** Serves a practice phone's bootloader on a loopback port. @returns the server and its port */
export const serveFastboot = (phone: PracticePhone, port = 0): Promise<Listening> =>
  listening(
    createServer((socket) => new Conversation(socket.setNoDelay(), phone)),
    port,
  );
