import { MAX_PAYLOAD } from "../../core/phones/adb/packets.ts";

/** One opened service, seen from the phone: bytes in, bytes out, each packet confirmed before the next (protocol.txt, WRITE). */
export class ServiceStream {
  readonly #send: (payload: Buffer) => void;
  readonly #confirm: () => void;
  readonly #hangUp: () => void;
  readonly #maxPayload: number;
  #arrived = Buffer.alloc(0);
  #wake: (() => void) | null = null;
  #ready: (() => void) | null = null;
  closed = false;

  constructor(send: (payload: Buffer) => void, confirm: () => void, hangUp: () => void, maxPayload: number) {
    this.#send = send;
    this.#confirm = confirm;
    this.#hangUp = hangUp;
    this.#maxPayload = Math.min(maxPayload, MAX_PAYLOAD);
  }

  /** The computer confirmed what was sent last. */
  confirmed(): void {
    this.#ready?.();
    this.#ready = null;
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
    this.#ready?.();
    return first;
  }

  async write(bytes: Uint8Array): Promise<void> {
    for (let at = 0; at < bytes.length && !this.closed; at += this.#maxPayload) {
      const confirmed = new Promise<void>((resolve) => {
        this.#ready = resolve;
      });
      this.#send(Buffer.from(bytes.subarray(at, at + this.#maxPayload)));
      await confirmed;
    }
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
