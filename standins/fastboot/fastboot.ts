import { createServer, type Socket } from "node:net";
import { PieceList } from "../../core/bytes/piece-list.ts";
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

const textOf = (bytes: Uint8Array): string => Buffer.from(bytes).toString("latin1");

/** One computer's conversation with a phone in bootloader mode. */
class Conversation {
  readonly #socket: Socket;
  readonly #phone: PracticePhone;
  readonly #arrived = new PieceList();
  /** Bytes of the message that is coming; null: its length comes first. */
  #coming: number | null = null;
  #greeted = false;
  /** Bytes of an image that are still to come. */
  #expected = 0;
  /** The image that is coming, filled up to where it came. */
  #filling: Buffer | null = null;
  #image: Buffer | null = null;

  constructor(socket: Socket, phone: PracticePhone) {
    this.#socket = socket;
    this.#phone = phone;
    // What was said last still arrives.
    if (!holdToCable(socket, phone, "fastboot", () => socket.end())) return;
    socket.on("data", (piece) => {
      this.#arrived.add(piece);
      this.#read();
    });
    socket.write(HANDSHAKE);
  }

  #read(): void {
    if (!this.#greeted) {
      if (this.#arrived.length < HANDSHAKE.length) return;
      if (!/^FB\d\d$/.test(textOf(this.#arrived.take(HANDSHAKE.length)))) {
        this.#socket.destroy();
        return;
      }
      this.#greeted = true;
    }
    for (;;) {
      if (this.#coming === null) {
        if (this.#arrived.length < LENGTH_BYTES) return;
        const head = this.#arrived.take(LENGTH_BYTES);
        const length = Number(new DataView(head.buffer, head.byteOffset).getBigUint64(0));
        if (length > (this.#expected > 0 ? this.#expected : MAX_COMMAND)) {
          this.#answer("FAIL", "the message is too long");
          this.#socket.end();
          return;
        }
        this.#coming = length;
      }
      // An image is put where it belongs as it comes; a command is heard when it is whole.
      if (this.#filling) {
        const piece = this.#arrived.take(Math.min(this.#coming, this.#arrived.length));
        this.#coming -= piece.length;
        this.#takeImage(this.#filling, piece);
        if (this.#coming > 0) return;
      } else {
        if (this.#arrived.length < this.#coming) return;
        this.#obey(textOf(this.#arrived.take(this.#coming)));
      }
      this.#coming = null;
    }
  }

  #answer(kind: "OKAY" | "FAIL" | "INFO" | "DATA", words = ""): void {
    const message = Buffer.from(kind + words, "latin1").subarray(0, MAX_ANSWER);
    const head = Buffer.alloc(LENGTH_BYTES);
    head.writeBigUInt64BE(BigInt(message.length));
    this.#socket.write(Buffer.concat([head, message]));
  }

  #takeImage(image: Buffer, piece: Uint8Array): void {
    image.set(piece, image.length - this.#expected);
    this.#expected -= piece.length;
    if (this.#expected > 0) return;
    this.#image = image;
    this.#filling = null;
    this.#answer("OKAY");
  }

  #obey(command: string): void {
    const [name, ...rest] = command.split(":");
    const value = rest.join(":");
    if (name === "getvar") this.#tell(value);
    else if (name === "download") this.#download(value);
    else if (name === "boot") this.#boot();
    else if (name === "continue" || name === "reboot" || /^reboot-\w+$/.test(name)) {
      this.#answer("OKAY");
      this.#phone.restart(value || name.slice("reboot-".length));
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
    this.#filling = Buffer.alloc(bytes);
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
