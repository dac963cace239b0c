import { PieceList } from "../../core/bytes/piece-list.ts";
import { MAX_PAYLOAD } from "../../core/phones/adb/packets.ts";

/** Bytes of the computer that may wait for a service to read them. */
const MOST_WAITING = MAX_PAYLOAD;

/** One opened service, seen from the phone: bytes in, bytes out, each packet confirmed before the next (protocol.txt, WRITE). */
export class ServiceStream {
  readonly #send: (payload: Uint8Array) => void;
  readonly #confirm: () => void;
  readonly #hangUp: () => void;
  readonly #maxPayload: number;
  readonly #arrived = new PieceList();
  /** Packets that were taken in and are not confirmed yet. */
  #unconfirmed = 0;
  #wake: (() => void) | null = null;
  readonly #leaving = new PieceList();
  #onItsWay = false;
  /** Whoever waits until there is room, or until all is sent. */
  #room: (() => void) | null = null;
  closed = false;

  constructor(send: (payload: Uint8Array) => void, confirm: () => void, hangUp: () => void, maxPayload: number) {
    this.#send = send;
    this.#confirm = confirm;
    this.#hangUp = hangUp;
    this.#maxPayload = Math.min(maxPayload, MAX_PAYLOAD);
  }

  /** The computer confirmed what was sent last. */
  confirmed(): void {
    this.#onItsWay = false;
    this.#pump();
    this.#room?.();
  }

  took(payload: Uint8Array): void {
    this.#arrived.add(payload);
    this.#unconfirmed++;
    this.#confirmTaken();
    this.#wake?.();
  }

  /** As a daemon whose program does not read: once its pipe is full nothing is confirmed, and the computer waits. */
  #confirmTaken(): void {
    for (; this.#unconfirmed > 0 && this.#arrived.length < MOST_WAITING && !this.closed; this.#unconfirmed--) this.#confirm();
  }

  /** The other side hung up. @returns whether this side had not yet */
  ended(): boolean {
    const first = !this.closed;
    this.closed = true;
    this.#wake?.();
    this.#room?.();
    return first;
  }

  /**
   * Sends bytes, as a daemon does that reads from a program's pipe: one packet is on its way at a time, and what comes
   * meanwhile goes together into the next one. Resolves when there is room for more.
   */
  async write(bytes: Uint8Array): Promise<void> {
    // Nobody takes it any more: what is read on for a computer that hung up is not kept.
    if (this.closed) return;
    this.#leaving.add(bytes);
    this.#pump();
    while (this.#leaving.length >= this.#maxPayload && !this.closed)
      await new Promise<void>((resolve) => {
        this.#room = resolve;
      });
  }

  /** Sends the next packet, unless one is still to be confirmed. */
  #pump(): void {
    if (this.#onItsWay || this.closed || this.#leaving.length === 0) return;
    this.#onItsWay = true;
    this.#send(this.#leaving.take(Math.min(this.#maxPayload, this.#leaving.length)));
  }

  /** Resolves when everything was sent and confirmed, or the other side hung up. */
  async flushed(): Promise<void> {
    while ((this.#onItsWay || this.#leaving.length > 0) && !this.closed)
      await new Promise<void>((resolve) => {
        this.#room = resolve;
      });
  }

  /** Exactly `length` bytes, at most MOST_WAITING, or null when the other side hung up before. */
  async exactly(length: number): Promise<Buffer | null> {
    while (this.#arrived.length < length) {
      if (this.closed) return null;
      await new Promise<void>((resolve) => {
        this.#wake = resolve;
      });
      this.#wake = null;
    }
    const bytes = this.#arrived.take(length);
    this.#confirmTaken();
    return Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length);
  }

  close(): void {
    if (this.closed) return;
    this.closed = true;
    this.#hangUp();
  }
}
