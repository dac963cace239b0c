/** Readings kept: the pace of the last seconds counts, not that of the start. */
const READINGS = 40;

/** Speed and time left from (milliseconds, bytes done) readings. The clock is the caller's. */
export class Pace {
  readonly #readings: { at: number; bytes: number }[] = [];

  note(at: number, bytes: number): void {
    // Another pass began, or an earlier place was gone back to: nothing ran backwards.
    if (bytes < (this.#readings.at(-1)?.bytes ?? 0)) this.forget();
    this.#readings.push({ at, bytes });
    if (this.#readings.length > READINGS) this.#readings.shift();
  }

  /** After a pause the old readings would make it look slow. */
  forget(): void {
    this.#readings.length = 0;
  }

  /** Bytes a second, or null while too little is known. */
  get bytesPerSecond(): number | null {
    const first = this.#readings.at(0);
    const last = this.#readings.at(-1);
    if (!first || !last || last.at - first.at < 300) return null;
    return ((last.bytes - first.bytes) * 1000) / (last.at - first.at);
  }

  /** Seconds until `total` bytes are done, or null. */
  secondsLeft(total: number): number | null {
    const pace = this.bytesPerSecond;
    const last = this.#readings.at(-1);
    return pace && last ? Math.max(0, (total - last.bytes) / pace) : null;
  }
}
