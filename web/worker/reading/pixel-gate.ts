/** Pixels that are decoded at once, at four bytes each. One picture of as many is drawn in full, alone. */
export const MOST_PIXELS = 100_000_000;

/** Lets pictures in to be decoded as long as their pixels fit together; the others wait in their order. */
export class PixelGate {
  readonly #most: number;
  #inside = 0;
  readonly #waiting: { readonly pixels: number; readonly enter: () => void }[] = [];

  constructor(most = MOST_PIXELS) {
    this.#most = most;
  }

  /** Runs `draw` when there is room for its pixels. */
  async through<T>(pixels: number, draw: () => Promise<T>): Promise<T> {
    const share = Math.min(pixels, this.#most);
    if (this.#waiting.length > 0 || this.#inside + share > this.#most)
      await new Promise<void>((enter) => this.#waiting.push({ pixels: share, enter }));
    else this.#inside += share;
    try {
      return await draw();
    } finally {
      this.#inside -= share;
      for (let next = this.#waiting[0]; next && this.#inside + next.pixels <= this.#most; next = this.#waiting[0]) {
        this.#waiting.shift();
        this.#inside += next.pixels;
        next.enter();
      }
    }
  }
}
