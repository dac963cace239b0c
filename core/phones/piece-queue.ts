import { PieceList } from "../bytes/piece-list.ts";
import { UnusableError } from "../bytes/source.ts";
import type { BytePipe } from "./byte-pipe.ts";

/** Gathers what a pipe brings until as much is there as is asked for. */
export class PieceQueue {
  readonly #arrived = new PieceList();
  #over = false;
  #wake: (() => void) | null = null;

  constructor(pipe: BytePipe) {
    pipe.listen(
      (piece) => {
        this.#arrived.add(piece);
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
    while (this.#arrived.length < length) {
      if (this.#over) throw new UnusableError("The phone does not answer any more: look at the cable.");
      await new Promise<void>((resolve) => {
        this.#wake = resolve;
      });
      this.#wake = null;
    }
    return this.#arrived.take(length);
  }
}
