/** Steps that are taken one after the other, in the order in which they are asked for. One that fails holds up none behind it. */
export class Turns {
  #last: Promise<unknown> = Promise.resolve();

  /** Takes a step when its turn comes. @returns what becomes of it */
  take<T>(step: () => T | Promise<T>): Promise<T> {
    const mine = this.#last.then(step);
    this.#last = mine.catch(() => undefined);
    return mine;
  }
}
