/**
 * The part of the W3C's Web Locks API that is used, for places that have none: locks of one name queue, `ifAvailable` does not wait, `steal` takes
 * the lock from its holder, whose request is rejected while what it does goes on (§4.3). Shared by all that run in one process.
 */
interface Waiting {
  readonly mode: LockMode;
  grant(): void;
}

class Locks {
  readonly #held = new Map<string, { mode: LockMode; reject(cause: unknown): void }[]>();
  readonly #queue = new Map<string, Waiting[]>();

  async request(name: string, ...rest: unknown[]): Promise<unknown> {
    const use = rest.pop() as (lock: unknown) => unknown;
    const { mode = "exclusive", ifAvailable = false, steal = false, signal } = (rest[0] ?? {}) as LockOptions;
    const held = this.#held.get(name) ?? [];
    this.#held.set(name, held);
    if (steal) for (const one of held.splice(0)) one.reject(new DOMException("stolen", "AbortError"));
    else if (!this.#isFree(name, mode)) {
      if (ifAvailable) return use(null);
      await this.#wait(name, mode, signal);
    }
    return new Promise((resolve, reject) => {
      const mine = { mode, reject };
      held.push(mine);
      Promise.resolve(use({ name, mode }))
        .then(resolve, reject)
        .finally(() => {
          if (held.includes(mine)) held.splice(held.indexOf(mine), 1);
          this.#next(name);
        });
    });
  }

  #isFree(name: string, mode: LockMode): boolean {
    const held = this.#held.get(name) ?? [];
    return held.length === 0 || (mode === "shared" && held.every((one) => one.mode === "shared"));
  }

  #wait(name: string, mode: LockMode, signal?: AbortSignal): Promise<void> {
    return new Promise((grant, reject) => {
      signal?.throwIfAborted();
      const queue = this.#queue.get(name) ?? [];
      this.#queue.set(name, queue);
      const waiting = { mode, grant };
      queue.push(waiting);
      signal?.addEventListener("abort", () => {
        if (queue.includes(waiting)) queue.splice(queue.indexOf(waiting), 1);
        reject(signal.reason);
      });
    });
  }

  #next(name: string): void {
    const queue = this.#queue.get(name) ?? [];
    while (queue[0] && this.#isFree(name, queue[0].mode)) queue.shift()?.grant();
  }

  async query(): Promise<LockManagerSnapshot> {
    return { held: [...this.#held].flatMap(([name, all]) => all.map(({ mode }) => ({ name, mode }))), pending: [] };
  }
}

/** Gives this process the locks of a browser, and a storage for a page's few words. */
export function installBrowser(): void {
  if (!("locks" in (globalThis.navigator ?? {})))
    Object.defineProperty(globalThis, "navigator", { value: { locks: new Locks() }, configurable: true });
  const words = new Map<string, string>();
  if (!("localStorage" in globalThis))
    Object.defineProperty(globalThis, "localStorage", {
      value: {
        getItem: (key: string) => words.get(key) ?? null,
        setItem: (key: string, value: string) => void words.set(key, value),
        removeItem: (key: string) => void words.delete(key),
      },
      configurable: true,
    });
}
