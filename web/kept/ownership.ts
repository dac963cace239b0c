import { database } from "./database.ts";

/** Another tab took a medium over, or it was removed: nothing of what this one still does may be kept. */
export class NotMine extends Error {
  constructor(message: string) {
    super(message);
    this.name = "NotMine";
  }
}

const lockName = (medium: number): string => `jubar medium ${medium}`;

/**
 * The right to work on a medium: a lock that one tab of this browser holds at a time (W3C Web Locks API), and a number in the medium's row,
 * since what a tab whose lock was stolen was just writing may still arrive.
 */
export class Ownership {
  readonly medium: number;
  readonly number: number;
  readonly #release: () => void;
  #isLost = false;

  private constructor(medium: number, number: number, release: () => void) {
    this.medium = medium;
    this.number = number;
    this.#release = release;
  }

  /** Takes the right. `steal`: from whoever has it. @returns null where another tab has it */
  static async take(medium: number, steal: boolean): Promise<Ownership | null> {
    let release: () => void = () => {};
    const held = new Promise<void>((over) => {
      release = over;
    });
    let owner: Ownership | null = null;
    const got = await new Promise<boolean>((resolve, reject) => {
      navigator.locks
        .request(lockName(medium), steal ? { steal: true } : { ifAvailable: true }, async (lock) => {
          resolve(lock !== null);
          if (lock) await held;
        })
        // Stolen by another tab: its number in the row says so to every transaction.
        .catch((cause: unknown) => {
          if (owner) owner.#isLost = true;
          else reject(cause);
        });
    });
    if (!got) return null;
    try {
      const number = await database.transaction("rw", database.media, async () => {
        const row = await database.media.get(medium);
        if (!row) throw new NotMine("This medium was removed from its ticket.");
        await database.media.update(medium, { owner: row.owner + 1 });
        return row.owner + 1;
      });
      owner = new Ownership(medium, number, release);
      return owner;
    } catch (cause) {
      release();
      throw cause;
    }
  }

  /** Kept when nobody holds the right to a medium. */
  static free(medium: number, signal: AbortSignal): Promise<void> {
    return navigator.locks.request(lockName(medium), { mode: "shared", signal }, () => undefined);
  }

  /** Does anybody hold it now? */
  static async isTaken(medium: number): Promise<boolean> {
    const { held = [] } = await navigator.locks.query();
    return held.some(({ name, mode }) => name === lockName(medium) && mode === "exclusive");
  }

  /** To be called first in every transaction that keeps something of the medium. @throws NotMine */
  async check(): Promise<void> {
    const row = await database.media.get(this.medium);
    if (!row) throw new NotMine("This medium was removed from its ticket.");
    if (this.#isLost || row.owner !== this.number) throw new NotMine("Another tab works on this medium now.");
  }

  letGo(): void {
    this.#release();
  }
}
