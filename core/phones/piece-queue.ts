import { UnusableError } from "../bytes/source.ts";
import type { BytePipe } from "./byte-pipe.ts";

/** Gathers what a pipe brings until as much is there as is asked for. */
export class PieceQueue {
  #pieces: Uint8Array[] = [];
  #length = 0;
  #over = false;
  #wake: (() => void) | null = null;

  constructor(pipe: BytePipe) {
    pipe.listen(
      (piece) => {
        this.#pieces.push(piece);
        this.#length += piece.length;
        this.#wake?.();
      },
      () => {
        this.#over = true;
        this.#wake?.();
      },
    );
  }

  /** The next `length` bytes. @throws UnusableError when the other side hung up before */
  async exactly(length: number): Promise<Uint8Array> {
    while (this.#length < length) {
      if (this.#over) throw new UnusableError("The phone does not answer any more: look at the cable.");
      await new Promise<void>((resolve) => {
        this.#wake = resolve;
      });
      this.#wake = null;
    }
    const whole = new Uint8Array(length);
    for (let filled = 0; filled < length; ) {
      const part = this.#pieces[0].subarray(0, length - filled);
      whole.set(part, filled);
      filled += part.length;
      if (part.length === this.#pieces[0].length) this.#pieces.shift();
      else this.#pieces[0] = this.#pieces[0].subarray(part.length);
    }
    this.#length -= length;
    return whole;
  }
}
