/** Previews that are drawn at once: more only take each other's time. */
const AT_ONCE = 4;

interface Waiting<T> {
  readonly key: string;
  readonly draw: () => Promise<T>;
  readonly done: (drawn: T | null) => void;
  readonly fail: (cause: unknown) => void;
}

/**
 * What is to be drawn, a few at a time. What was asked for last comes first, since that is in sight; what is not wanted any more before its turn came
 * is never drawn.
 */
export class PreviewQueue<T> {
  readonly #waiting: Waiting<T>[] = [];
  #under = 0;

  /** @returns null where it was not wanted any more */
  ask(key: string, draw: () => Promise<T>): Promise<T | null> {
    return new Promise((done, fail) => {
      this.#waiting.push({ key, draw, done, fail });
      this.#next();
    });
  }

  /** @returns whether it was still waiting */
  drop(key: string): boolean {
    const at = this.#waiting.findIndex((one) => one.key === key);
    if (at < 0) return false;
    const [dropped] = this.#waiting.splice(at, 1);
    dropped.done(null);
    return true;
  }

  #next(): void {
    if (this.#under >= AT_ONCE) return;
    const next = this.#waiting.pop();
    if (!next) return;
    this.#under++;
    next
      .draw()
      .then(next.done, next.fail)
      .finally(() => {
        this.#under--;
        this.#next();
      });
  }
}
