import { MAX_PAYLOAD } from "../../core/phones/adb/packets.ts";

/** One opened service, seen from the phone: bytes in, bytes out, each packet confirmed before the next (protocol.txt, WRITE). */
export class ServiceStream {
  readonly #send: (payload: Uint8Array) => void;
  readonly #confirm: () => void;
  readonly #hangUp: () => void;
  readonly #maxPayload: number;
  #arrived = Buffer.alloc(0);
  #wake: (() => void) | null = null;
  #leaving: Uint8Array[] = [];
  #leavingBytes = 0;
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
    this.#arrived = Buffer.concat([this.#arrived, payload]);
    this.#confirm();
    this.#wake?.();
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
    this.#leaving.push(bytes);
    this.#leavingBytes += bytes.length;
    this.#pump();
    while (this.#leavingBytes >= this.#maxPayload && !this.closed)
      await new Promise<void>((resolve) => {
        this.#room = resolve;
      });
  }

  /** Sends the next packet, unless one is still to be confirmed. */
  #pump(): void {
    if (this.#onItsWay || this.closed || this.#leavingBytes === 0) return;
    const waiting = this.#leaving.length === 1 ? this.#leaving[0] : Buffer.concat(this.#leaving);
    const packet = waiting.subarray(0, this.#maxPayload);
    this.#leaving = packet.length < waiting.length ? [waiting.subarray(packet.length)] : [];
    this.#leavingBytes = waiting.length - packet.length;
    this.#onItsWay = true;
    this.#send(packet);
  }

  /** Resolves when everything was sent and confirmed, or the other side hung up. */
  async flushed(): Promise<void> {
    while ((this.#onItsWay || this.#leavingBytes > 0) && !this.closed)
      await new Promise<void>((resolve) => {
        this.#room = resolve;
      });
  }

  /** Exactly `length` bytes, or null when the other side hung up before. */
  async exactly(length: number): Promise<Buffer | null> {
    while (this.#arrived.length < length) {
      if (this.closed) return null;
      await new Promise<void>((resolve) => {
        this.#wake = resolve;
      });
      this.#wake = null;
    }
    const bytes = this.#arrived.subarray(0, length);
    this.#arrived = this.#arrived.subarray(length);
    return bytes;
  }

  close(): void {
    if (this.closed) return;
    this.closed = true;
    this.#hangUp();
  }
}
